/** The reflected polynomial of ISO-HDLC, as zip and gzip use it (RFC 1952, section 8). */
const POLYNOMIAL = 0xedb88320;

const table = Uint32Array.from({ length: 256 }, (_, n) => {
  let value = n;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ POLYNOMIAL : value >>> 1;
  return value;
});

/** The CRC-32 of bytes, going on from that of the bytes before them. */
export function crc32(bytes: Uint8Array, before = 0): number {
  let value = ~before;
  for (let i = 0; i < bytes.length; i++) value = (value >>> 8) ^ table[(value ^ bytes[i]!) & 0xff]!;
  return ~value >>> 0;
}

/** One step for one byte on the raw register, without the inversions at the ends. */
export function crc32Step(register: number, byte: number): number {
  return (register >>> 8) ^ table[(register ^ byte) & 0xff]!;
}
