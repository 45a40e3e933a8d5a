import type { SqlValue } from '../sqlite';

/** Kinds of ids whose first bits are the moment at which they were made. */
export const ID_CLOCKS = [
  'uuid',
  'ulid',
  'object-id',
  'sequence-1970',
  'sequence-2010',
  'sequence-2015'
] as const;

export type IdClock = (typeof ID_CLOCKS)[number];

/** The moment inside an id, in milliseconds since 1970; null when it is no id of the kind. */
export function idMilliseconds(value: SqlValue | undefined, clock: IdClock): number | null {
  switch (clock) {
    case 'uuid':
      return uuidTime(value);
    case 'ulid':
      return ulidTime(value);
    case 'object-id':
      return objectIdTime(value);
    case 'sequence-1970':
    case 'sequence-2010':
    case 'sequence-2015':
      return sequenceTime(value, EPOCHS[clock]);
  }
}

const UUID =
  /^\{?([0-9a-f]{8})-?([0-9a-f]{4})-?([0-9a-f])([0-9a-f]{3})-?[0-9a-f]{4}-?[0-9a-f]{12}\}?$/i;
/** 1582-10-15, from which version 1 counts 100 nanoseconds (RFC 9562, section 5.1). */
const GREGORIAN = -12_219_292_800_000;

/** RFC 9562: version 7 begins with milliseconds since 1970, versions 1 and 6 hold 100 nanoseconds since 1582. */
function uuidTime(value: SqlValue | undefined): number | null {
  const text = value instanceof Uint8Array && value.length === 16 ? hexOf(value) : value;
  const found = typeof text === 'string' ? UUID.exec(text) : null;
  if (!found) return null;
  const [, first, second, version, third] = found;
  if (version === '7') return parseInt(first! + second!, 16);
  if (version === '1') return GREGORIAN + ticks(third! + second! + first!);
  if (version === '6') return GREGORIAN + ticks(first! + second! + third!);
  return null;
}

function ticks(hex: string): number {
  return Number(BigInt(`0x${hex}`) / 10_000n);
}

function hexOf(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}

const BASE32 = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';

/** 26 digits of base 32, the first ten of which count milliseconds since 1970. */
function ulidTime(value: SqlValue | undefined): number | null {
  if (typeof value !== 'string' || !/^[0-7][0-9a-hjkmnp-tv-z]{25}$/i.test(value)) return null;
  let time = 0;
  for (const digit of value.slice(0, 10).toUpperCase()) time = time * 32 + BASE32.indexOf(digit);
  return time;
}

/** 24 hex digits, the first eight of which count seconds since 1970. */
function objectIdTime(value: SqlValue | undefined): number | null {
  const text = value instanceof Uint8Array && value.length === 12 ? hexOf(value) : value;
  return typeof text === 'string' && /^[0-9a-f]{24}$/i.test(text)
    ? parseInt(text.slice(0, 8), 16) * 1000
    : null;
}

/** Numbers of 63 bits that count milliseconds from some zero above 22 bits of machine and sequence. */
const EPOCHS = {
  'sequence-1970': 0,
  'sequence-2010': 1_288_834_974_657,
  'sequence-2015': 1_420_070_400_000
};
const SEQUENCE_BITS = 22n;
/** Smaller ones would count no month. */
const LEAST_SEQUENCE = 2n ** 53n;

function sequenceTime(value: SqlValue | undefined, epoch: number): number | null {
  const number = wholeNumber(value);
  if (number === null || number < LEAST_SEQUENCE) return null;
  return Number(number >> SEQUENCE_BITS) + epoch;
}

function wholeNumber(value: SqlValue | undefined): bigint | null {
  if (typeof value === 'bigint') return value;
  if (typeof value === 'string' && /^\d{16,19}$/.test(value)) return BigInt(value);
  return typeof value === 'number' && Number.isInteger(value) ? BigInt(value) : null;
}
