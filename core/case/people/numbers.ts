import {
  getCountries,
  getCountryCallingCode,
  parsePhoneNumberFromString
} from 'libphonenumber-js/max';

/** An address as a telephone number: with its country, or as it is dialled at home. */
export type Dialled = { international: string } | { national: string };

/** Digits from which on two writings can be told to be one number. */
const LEAST = 8;

/**
 * The number that an address holds; null where it holds none. An address
 * whose part before the sign is an international number, as some stores have
 * it, counts as that number.
 */
export function numberIn(address: string): Dialled | null {
  const [, local] = /^(\d{10,15})(?:[.:]\d+){0,2}@/.exec(address) ?? [];
  if (local !== undefined) return isNumber(`+${local}`) ? { international: local } : null;
  if (!/^[+()\d\s./-]+$/.test(address)) return null;
  const digits = address.replace(/\D/g, '');
  if (digits.length < LEAST || digits.length > 16) return null;
  if (address.trim().startsWith('+')) return { international: digits };
  if (digits.startsWith('00') && isNumber(`+${digits.slice(2)}`))
    return { international: digits.slice(2) };
  return { national: digits };
}

function isNumber(text: string): boolean {
  return parsePhoneNumberFromString(text)?.isPossible() ?? false;
}

/** Whether two writings are of one number. Two that are dialled at home are so only where their digits agree. */
export function isSameNumber(a: Dialled, b: Dialled): boolean {
  if ('international' in a && 'international' in b) return a.international === b.international;
  if ('national' in a && 'national' in b)
    return withoutTrunk(a.national) === withoutTrunk(b.national);
  const abroad =
    'international' in a ? a.international : (b as { international: string }).international;
  const home = 'national' in a ? a.national : (b as { national: string }).national;
  return isAtHome(home, abroad);
}

function withoutTrunk(digits: string): string {
  return digits.replace(/^0+/, '');
}

/** Whether digits, dialled in the country of an international number, reach it. */
function isAtHome(national: string, international: string): boolean {
  if (national === international) return true;
  const code = callingCode(international);
  if (code === null) return false;
  return (
    parsePhoneNumberFromString(national, { defaultCallingCode: code })?.number ===
    `+${international}`
  );
}

let callingCodes: ReadonlySet<string> | null = null;

/** No calling code begins another (ITU-T E.164, section 6.2.1). */
function callingCode(international: string): string | null {
  callingCodes ??= new Set(getCountries().map((country) => getCountryCallingCode(country)));
  for (let length = 1; length <= 3; length++)
    if (callingCodes.has(international.slice(0, length))) return international.slice(0, length);
  return null;
}

/** The last digits, which all writings of a number share. */
export function tail(number: Dialled): string {
  return ('international' in number ? number.international : number.national).slice(-7);
}
