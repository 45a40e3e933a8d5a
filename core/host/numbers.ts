/** Big-endian reads. Each checks nothing: callers check ranges first, because these run in the innermost loops. */
export function u16be(b: Uint8Array, at: number): number {
  return (b[at]! << 8) | b[at + 1]!;
}

export function u32be(b: Uint8Array, at: number): number {
  return ((b[at]! << 24) | (b[at + 1]! << 16) | (b[at + 2]! << 8) | b[at + 3]!) >>> 0;
}

/** Signed big-endian integer of 1 to 6 bytes as a number, of 8 bytes as a number where exact and a bigint elsewhere. */
export function intBe(b: Uint8Array, at: number, size: number): number | bigint {
  switch (size) {
    case 1:
      return (b[at]! << 24) >> 24;
    case 2:
      return ((b[at]! << 24) >> 16) | b[at + 1]!;
    case 3:
      return ((b[at]! << 24) >> 8) | (b[at + 1]! << 8) | b[at + 2]!;
    case 4:
      return (b[at]! << 24) | (b[at + 1]! << 16) | (b[at + 2]! << 8) | b[at + 3]!;
    case 6:
      return (((b[at]! << 24) >> 16) | b[at + 1]!) * 0x1_0000_0000 + u32be(b, at + 2);
    default:
      return int64Be(b, at);
  }
}

function int64Be(b: Uint8Array, at: number): number | bigint {
  const high = (b[at]! << 24) | (b[at + 1]! << 16) | (b[at + 2]! << 8) | b[at + 3]!;
  const low = u32be(b, at + 4);
  if (high >= -0x20_0000 && high < 0x20_0000) return high * 0x1_0000_0000 + low;
  return (BigInt(high) << 32n) | BigInt(low);
}

const scratch = new DataView(new ArrayBuffer(8));

/** IEEE 754 double, big-endian. */
export function f64be(b: Uint8Array, at: number): number {
  for (let i = 0; i < 8; i++) scratch.setUint8(i, b[at + i]!);
  return scratch.getFloat64(0);
}

/** Little-endian reads, unchecked like the others. */
export function u16le(b: Uint8Array, at: number): number {
  return b[at]! | (b[at + 1]! << 8);
}

export function u32le(b: Uint8Array, at: number): number {
  return (b[at]! | (b[at + 1]! << 8) | (b[at + 2]! << 16) | (b[at + 3]! << 24)) >>> 0;
}

/** Unsigned 64 bits as a number; Infinity where it is past 2^53, so that range checks refuse it. */
export function u64le(b: Uint8Array, at: number): number {
  const high = u32le(b, at + 4);
  return high > 0x1f_ffff ? Infinity : high * 0x1_0000_0000 + u32le(b, at);
}

/** Unsigned 64 bits, big endian; Infinity where it is past 2^53. */
export function u64beNumber(b: Uint8Array, at: number): number {
  const high = u32be(b, at);
  return high > 0x1f_ffff ? Infinity : high * 0x1_0000_0000 + u32be(b, at + 4);
}
