import { decodeSeptets, unpackSeptets } from './alphabet';

/** BCD digits of TS 24.008, table 10.5.118, low nibble first; 0xF ends or fills. */
const DIGITS = '0123456789*#pwe';

export function decodeDigits(bytes: Uint8Array): string {
  let out = '';
  for (const byte of bytes) {
    for (const nibble of [byte & 15, byte >> 4]) {
      if (nibble === 15) return out;
      out += DIGITS[nibble];
    }
  }
  return out;
}

const INTERNATIONAL = 1;
const ALPHANUMERIC = 5;

/** A number with its type octet in front: `+` before international ones. */
export function decodeNumber(type: number, bytes: Uint8Array): string {
  const digits = decodeDigits(bytes);
  return ((type >> 4) & 7) === INTERNATIONAL && digits !== '' ? `+${digits}` : digits;
}

/** An address field of a TPDU (TS 23.040, section 9.1.2.5); its length counts half octets. Null when it does not fit. */
export function decodeAddress(
  bytes: Uint8Array,
  at: number
): { address: string; next: number } | null {
  const halves = bytes[at];
  const type = bytes[at + 1];
  if (halves === undefined || type === undefined || halves > 20 || (type & 0x80) === 0) return null;
  const length = Math.ceil(halves / 2);
  const next = at + 2 + length;
  if (next > bytes.length) return null;
  const value = bytes.subarray(at + 2, next);
  if (((type >> 4) & 7) === ALPHANUMERIC) {
    const count = Math.floor((halves * 4) / 7);
    return { address: decodeSeptets(unpackSeptets(value, count)), next };
  }
  const digits = decodeNumber(type, value);
  return { address: digits, next };
}

/**
 * A time stamp of seven octets with swapped half octets and its zone in
 * quarter hours (TS 23.040, section 9.2.3.11), in milliseconds since 1970.
 * Null when it names no moment.
 */
export function decodeTime(bytes: Uint8Array, at: number): number | null {
  if (at + 7 > bytes.length) return null;
  const parts = Array.from(bytes.subarray(at, at + 6), swapped);
  if (parts.some((part) => part === null)) return null;
  const [year, month, day, hour, minute, second] = parts as [
    number,
    number,
    number,
    number,
    number,
    number
  ];
  if (month < 1 || month > 12 || day < 1 || day > 31 || hour > 23 || minute > 59 || second > 59)
    return null;
  const local = Date.UTC(
    year >= 90 ? 1900 + year : 2000 + year,
    month - 1,
    day,
    hour,
    minute,
    second
  );
  if (new Date(local).getUTCDate() !== day) return null;
  const zone = bytes[at + 6]!;
  const quarters = (zone & 7) * 10 + (zone >> 4);
  if (quarters > 63) return null;
  return local - (zone & 8 ? -quarters : quarters) * 900_000;
}

function swapped(byte: number): number | null {
  const [tens, ones] = [byte & 15, byte >> 4];
  return tens > 9 || ones > 9 ? null : tens * 10 + ones;
}
