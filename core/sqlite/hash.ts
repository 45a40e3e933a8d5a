/**
 * A 53-bit hash of record bytes for telling copies of one row from each
 * other. Not cryptographic: it only picks candidates within one table.
 */
export function hashBytes(bytes: Uint8Array, from = 0, to = bytes.length): number {
  let a = 0x9e3779b1;
  let b = 0x85ebca6b;
  for (let i = from; i < to; i++) {
    const byte = bytes[i]!;
    a = Math.imul(a ^ byte, 0x01000193);
    b = Math.imul(b + byte, 0xc2b2ae35) ^ (b >>> 13);
  }
  a = Math.imul(a ^ (a >>> 15), 0x2c1b3c6d);
  b = Math.imul(b ^ (b >>> 16), 0x297a2d39);
  return ((b >>> 0) & 0x1fffff) * 0x1_0000_0000 + ((a ^ (b >>> 7)) >>> 0);
}
