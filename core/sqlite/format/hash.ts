import { memoryOf } from '../../host';

/**
 * A 53-bit hash of record bytes for telling copies of one row from each
 * other. Not cryptographic: it only picks candidates within one table.
 */
export function hashBytes(bytes: Uint8Array): number {
  return hashRange(bytes, 0, bytes.length);
}

/** The same for a part of the bytes, four at a time. */
export function hashRange(bytes: Uint8Array, from: number, to: number): number {
  const { view, base } = memoryOf(bytes);
  let a = 0x9e3779b1 ^ (to - from);
  let b = 0x85ebca6b;
  const whole = to - ((to - from) & 3);
  for (let at = from; at < to; at += 4) {
    const word = at < whole ? view.getUint32(base + at, true) : rest(bytes, at, to);
    a = Math.imul(a ^ word, 0x2c1b3c6d);
    a ^= a >>> 15;
    b = Math.imul(b + word, 0xc2b2ae35) ^ (b >>> 13);
  }
  a = Math.imul(a ^ (a >>> 15), 0x2c1b3c6d);
  b = Math.imul(b ^ (b >>> 16), 0x297a2d39);
  return ((b >>> 0) & 0x1fffff) * 0x1_0000_0000 + ((a ^ (b >>> 7)) >>> 0);
}

/** Bytes of each piece of a record that its sketch is made of. */
const PIECE = 8;

/**
 * A number that records with the same bytes share, made of their length and
 * three pieces of them alone. Every live row of a store goes through it, so
 * that only rows that look alike need be compared in full.
 */
export function sketchRange(bytes: Uint8Array, from: number, to: number): number {
  const length = to - from;
  if (length <= 4 * PIECE) return hashRange(bytes, from, to);
  const { view, base } = memoryOf(bytes);
  let a = 0x9e3779b1 ^ length;
  let b = 0x85ebca6b;
  // A quarter of the way, half of it, and the end: the header says little.
  for (let i = 1; i <= 3; i++) {
    const at = base + (i === 3 ? to - PIECE : from + ((length * i) >> 2));
    a = Math.imul(a ^ view.getUint32(at, true), 0x2c1b3c6d);
    b = Math.imul(b ^ view.getUint32(at + 4, true), 0x297a2d39);
    a ^= a >>> 15;
    b ^= b >>> 13;
  }
  return (b >>> 11) * 0x1_0000_0000 + (a >>> 0);
}

/** The last one to three bytes, as a word that is filled up with zeros. */
function rest(bytes: Uint8Array, from: number, to: number): number {
  let word = 0;
  for (let at = to - 1; at >= from; at--) word = word * 256 + bytes[at]!;
  return word;
}
