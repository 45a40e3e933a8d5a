import {
  getCountries,
  getCountryCallingCode,
  parsePhoneNumberFromString,
  type CountryCode
} from 'libphonenumber-js/max';

/** Where national numbers belong: a country, or what international numbers showed. */
export type Home = { country: CountryCode } | { callingCode: string } | null;

/**
 * Brings addresses into one form, so that the same person is found in every
 * store: telephone numbers as E.164, mail addresses in lower case, anything
 * else (short codes, names of senders) as it stands.
 */
export class AddressBook {
  private readonly known = new Map<string, string>();

  constructor(private readonly home: Home) {}

  normalise(raw: string): string {
    let form = this.known.get(raw);
    if (form === undefined) {
      form = normaliseAddress(raw, this.home);
      this.known.set(raw, form);
    }
    return form;
  }
}

export function normaliseAddress(raw: string, home: Home): string {
  const text = stripControls(raw)
    .trim()
    .replace(/^(tel|sms|mailto):/i, '');
  if (text.includes('@')) return text.toLowerCase();
  if (!/^[+()\d\s./-]+$/.test(text)) return text;
  const digits = text.replace(/\D/g, '');
  if (digits.length < 7) return digits === '' ? text : digits;
  const parsed = parsePhoneNumberFromString(text, parsingFor(home));
  if (parsed?.isPossible()) return parsed.number;
  return text.startsWith('+') ? `+${digits}` : digits;
}

function parsingFor(
  home: Home
): { defaultCountry: CountryCode } | { defaultCallingCode: string } | undefined {
  if (home === null) return undefined;
  return 'country' in home
    ? { defaultCountry: home.country }
    : { defaultCallingCode: home.callingCode };
}

/** Address books add invisible direction marks to numbers. */
function stripControls(text: string): string {
  return text.replace(/[\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/g, '');
}

/**
 * Where national numbers of a store belong, judged by its international
 * ones: the most frequent calling code, if it is that of most of them.
 */
export function guessHome(addresses: Iterable<string>): Home {
  const counts = new Map<string, number>();
  // The same few people write most messages.
  const known = new Map<string, string | undefined>();
  let total = 0;
  for (const address of addresses) {
    if (!address.trim().startsWith('+')) continue;
    if (!known.has(address)) known.set(address, callingCodeOf(address));
    const code = known.get(address);
    if (!code) continue;
    total++;
    counts.set(code, (counts.get(code) ?? 0) + 1);
  }
  const [top] = [...counts].sort((a, b) => b[1] - a[1]);
  return top && top[1] * 2 > total ? { callingCode: top[0] } : null;
}

let callingCodes: ReadonlySet<string> | null = null;

/** The calling code of an international number: no code begins another (ITU-T E.164, section 6.2.1). */
function callingCodeOf(address: string): string | undefined {
  callingCodes ??= new Set(getCountries().map((country) => getCountryCallingCode(country)));
  const digits = address.replace(/\D/g, '');
  for (let length = 1; length <= 3 && length < digits.length; length++)
    if (callingCodes.has(digits.slice(0, length))) return digits.slice(0, length);
  return undefined;
}

/** An address as people write it: telephone numbers with their groups of digits. */
export function shownAddress(address: string): string {
  if (!address.startsWith('+')) return address;
  return parsePhoneNumberFromString(address)?.formatInternational() ?? address;
}

export type { CountryCode };
