/**
 * SQLite variable-length integers (file format, section 1.6): one to nine
 * bytes, big-endian base 128, the ninth byte giving all of its eight bits.
 */
export interface Varint {
  value: number;
  /** Bytes taken; 0 when the bytes end inside the integer. */
  size: number;
}

/**
 * Reads a varint as an unsigned number. Values past 2^53 lose their low bits:
 * use {@link readVarintSigned} for row numbers.
 */
export function readVarint(b: Uint8Array, at: number, end: number, out: Varint): Varint {
  if (at + 1 < end) {
    // Nearly all of them are this short, and small numbers are quicker to work with.
    const first = b[at]!;
    const second = b[at + 1]!;
    if (first < 0x80) return set(out, first, 1);
    if (second < 0x80) return set(out, ((first & 0x7f) << 7) | second, 2);
  }
  let value = 0;
  for (let i = 0; i < 9; i++) {
    if (at + i >= end) break;
    const byte = b[at + i]!;
    if (i === 8) return set(out, value * 256 + byte, 9);
    value = value * 128 + (byte & 0x7f);
    if (byte < 0x80) return set(out, value, i + 1);
  }
  return set(out, 0, 0);
}

function set(out: Varint, value: number, size: number): Varint {
  out.value = value;
  out.size = size;
  return out;
}

/** Reads a varint as the signed 64-bit integer that row numbers are; a number where exact. */
export function readVarintSigned(
  b: Uint8Array,
  at: number,
  end: number
): { value: number | bigint; size: number } {
  const short = readVarint(b, at, end, { value: 0, size: 0 });
  if (short.size < 8) return short;
  let big = 0n;
  for (let i = 0; i < short.size; i++) {
    const byte = BigInt(b[at + i]!);
    big = i === 8 ? (big << 8n) | byte : (big << 7n) | (byte & 0x7fn);
  }
  const signed = BigInt.asIntN(64, big);
  const exact = Number(signed);
  return { value: Number.isSafeInteger(exact) ? exact : signed, size: short.size };
}

/** Bytes that the shortest encoding of a non-negative `value` takes. */
export function varintSize(value: number): number {
  let size = 1;
  let limit = 128;
  while (size < 8 && value >= limit) {
    size++;
    limit *= 128;
  }
  return value >= limit ? 9 : size;
}
