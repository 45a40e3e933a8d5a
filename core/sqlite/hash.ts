import { viewOf } from '../bytes';

/**
 * A 53-bit hash of record bytes for telling copies of one row from each
 * other. Not cryptographic: it only picks candidates within one table.
 */
export function hashBytes(bytes: Uint8Array): number {
  return hashRange(bytes, 0, bytes.length);
}

/** The same for a part of the bytes, four at a time. */
export function hashRange(bytes: Uint8Array, from: number, to: number): number {
  const view = viewOf(bytes);
  let a = 0x9e3779b1 ^ (to - from);
  let b = 0x85ebca6b;
  const whole = to - ((to - from) & 3);
  for (let at = from; at < to; at += 4) {
    const word = at < whole ? view.getUint32(at, true) : rest(view, at, to);
    a = Math.imul(a ^ word, 0x2c1b3c6d);
    a ^= a >>> 15;
    b = Math.imul(b + word, 0xc2b2ae35) ^ (b >>> 13);
  }
  a = Math.imul(a ^ (a >>> 15), 0x2c1b3c6d);
  b = Math.imul(b ^ (b >>> 16), 0x297a2d39);
  return ((b >>> 0) & 0x1fffff) * 0x1_0000_0000 + ((a ^ (b >>> 7)) >>> 0);
}

/** Bytes at each end of a record that its sketch is made of. */
const END = 32;

/**
 * A number that records with the same bytes share, made of their length and
 * their two ends alone. Every live row of a store goes through it, so that
 * only rows that look alike need be compared in full.
 */
export function sketchRange(bytes: Uint8Array, from: number, to: number): number {
  if (to - from <= 2 * END) return hashRange(bytes, from, to);
  const ends = hashRange(bytes, from, from + END) + 3 * hashRange(bytes, to - END, to);
  return (ends % 0x10_0000_0000_0000) + ((to - from) & 0xffff);
}

/** The last one to three bytes, as a word that is filled up with zeros. */
function rest(view: DataView, from: number, to: number): number {
  let word = 0;
  for (let at = to - 1; at >= from; at--) word = word * 256 + view.getUint8(at);
  return word;
}
