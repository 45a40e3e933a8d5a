import {
  decodeCut,
  decodeText,
  f64be,
  intBe,
  readVarint,
  type TextEncoding,
  type Varint
} from '../../host';

/** A value as SQLite stores it. Integers past 2^53 are bigints. */
export type SqlValue = null | number | bigint | string | Uint8Array;

const INT_SIZES = [0, 1, 2, 3, 4, 6, 8, 8, 0, 0];

/** Sizes of values whose serial type takes one byte. */
const SHORT_SIZES = Uint8Array.from({ length: 128 }, (_, serial) =>
  serial < 12 ? (INT_SIZES[serial] ?? 0) : (serial - 12) >> 1
);

/** Bytes that a value of this serial type takes (file format, section 2.1). */
export function serialSize(serial: number): number {
  if (serial < 128) return SHORT_SIZES[serial]!;
  return serial <= 0x7fff_ffff ? (serial - 12) >> 1 : (serial - 12 - (serial % 2)) / 2;
}

/** Decodes one value; `at + serialSize(serial)` must lie within `bytes`. */
export function decodeValue(
  bytes: Uint8Array,
  at: number,
  serial: number,
  encoding: TextEncoding
): SqlValue {
  if (serial === 0) return null;
  if (serial === 8) return 0;
  if (serial === 9) return 1;
  if (serial === 7) {
    const real = f64be(bytes, at);
    return Number.isNaN(real) ? null : real;
  }
  if (serial < 7) return intBe(bytes, at, INT_SIZES[serial]!);
  const size = serialSize(serial);
  if (serial & 1) return decodeText(bytes.subarray(at, at + size), encoding);
  return bytes.slice(at, at + size);
}

const scratch: Varint = { value: 0, size: 0 };

/**
 * Decodes a whole record (section 2.1). Stops without throwing where the
 * bytes end: the values that are complete are returned.
 */
export function decodeRecord(payload: Uint8Array, encoding: TextEncoding): SqlValue[] {
  const head = readVarint(payload, 0, payload.length, scratch);
  if (head.size === 0) return [];
  const headerEnd = Math.min(head.value, payload.length);
  const values: SqlValue[] = [];
  let at = head.value;
  let pos = head.size;
  while (pos < headerEnd) {
    const serial = readVarint(payload, pos, headerEnd, scratch);
    if (serial.size === 0) break;
    pos += serial.size;
    const type = serial.value;
    const size = serialSize(type);
    if (type === 10 || type === 11 || at + size > payload.length) break;
    values.push(decodeValue(payload, at, type, encoding));
    at += size;
  }
  return values;
}

/**
 * What is left of the text in which a record breaks off, and how many bytes
 * of it are lost; null where it breaks off in something else, or not at all.
 */
export function cutText(
  payload: Uint8Array,
  encoding: TextEncoding
): { text: string; bytes: number } | null {
  const head = readVarint(payload, 0, payload.length, scratch);
  if (head.size === 0 || head.value > payload.length) return null;
  const headerEnd = head.value;
  let at = headerEnd;
  for (let pos = head.size; pos < headerEnd;) {
    const serial = readVarint(payload, pos, headerEnd, scratch);
    if (serial.size === 0) return null;
    pos += serial.size;
    const end = at + serialSize(serial.value);
    if (end > payload.length) {
      if (serial.value < 13 || serial.value % 2 === 0) return null;
      return { text: decodeCut(payload.subarray(at), encoding), bytes: end - payload.length };
    }
    at = end;
  }
  return null;
}
