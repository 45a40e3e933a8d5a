let words = new Uint32Array(1 << 14);
let room = new Uint8Array(words.buffer);

/**
 * A 53-bit hash of record bytes for telling copies of one row from each
 * other. Not cryptographic: it only picks candidates within one table. Every
 * row of a store goes through it, so it takes four bytes at a time.
 */
export function hashBytes(bytes: Uint8Array): number {
  const { length } = bytes;
  if (length + 4 > room.length) {
    words = new Uint32Array((length >> 2) * 2 + 2);
    room = new Uint8Array(words.buffer);
  }
  room.set(bytes);
  room.fill(0, length, length + 3);
  const count = (length + 3) >> 2;
  let a = 0x9e3779b1 ^ length;
  let b = 0x85ebca6b;
  for (let i = 0; i < count; i++) {
    const word = words[i]!;
    a = Math.imul(a ^ word, 0x2c1b3c6d);
    a ^= a >>> 15;
    b = Math.imul(b + word, 0xc2b2ae35) ^ (b >>> 13);
  }
  a = Math.imul(a ^ (a >>> 15), 0x2c1b3c6d);
  b = Math.imul(b ^ (b >>> 16), 0x297a2d39);
  return ((b >>> 0) & 0x1fffff) * 0x1_0000_0000 + ((a ^ (b >>> 7)) >>> 0);
}
