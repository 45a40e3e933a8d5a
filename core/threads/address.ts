import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js/max';

/**
 * Brings addresses into one form, so that the same person is found in every
 * store: telephone numbers as E.164, mail addresses in lower case, anything
 * else (short codes, names of senders) as it stands.
 */
export class AddressBook {
  private readonly known = new Map<string, string>();

  constructor(private readonly region: CountryCode | null) {}

  normalise(raw: string): string {
    let form = this.known.get(raw);
    if (form === undefined) {
      form = normaliseAddress(raw, this.region);
      this.known.set(raw, form);
    }
    return form;
  }
}

export function normaliseAddress(raw: string, region: CountryCode | null): string {
  const text = stripControls(raw)
    .trim()
    .replace(/^(tel|sms|mailto):/i, '');
  if (text.includes('@')) return text.toLowerCase();
  if (!/^[+()\d\s./-]+$/.test(text)) return text;
  const digits = text.replace(/\D/g, '');
  if (digits.length < 7) return digits === '' ? text : digits;
  const parsed = parsePhoneNumberFromString(text, region ?? undefined);
  if (parsed?.isPossible()) return parsed.number;
  return text.trim().startsWith('+') ? `+${digits}` : digits;
}

/** Address books add invisible direction marks to numbers. */
function stripControls(text: string): string {
  return text.replace(/[\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/g, '');
}

/**
 * The region that national numbers of a store belong to, judged by its
 * international ones: the most frequent country, if it is most of them.
 */
export function guessRegion(addresses: Iterable<string>): CountryCode | null {
  const counts = new Map<CountryCode, number>();
  let total = 0;
  for (const address of addresses) {
    if (!address.trim().startsWith('+')) continue;
    const country = parsePhoneNumberFromString(address)?.country;
    if (!country) continue;
    total++;
    counts.set(country, (counts.get(country) ?? 0) + 1);
  }
  const [top] = [...counts].sort((a, b) => b[1] - a[1]);
  return top && top[1] * 2 > total ? top[0] : null;
}

/** An address as people write it: telephone numbers with their groups of digits. */
export function shownAddress(address: string): string {
  if (!address.startsWith('+')) return address;
  return parsePhoneNumberFromString(address)?.formatInternational() ?? address;
}

export type { CountryCode };
