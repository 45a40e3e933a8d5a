/**
 * Finds the places at which a number stands in a column of numbers: a hash
 * table of typed arrays, 12 bytes an entry and less than half of that for its
 * heads. NaN is a number like others here.
 */
export class NumberIndex {
  private readonly heads: Int32Array;
  private readonly next: Int32Array;
  private readonly mask: number;

  constructor(private readonly keys: Float64Array) {
    let size = 16;
    while (size < keys.length * 1.5) size *= 2;
    this.mask = size - 1;
    this.heads = new Int32Array(size).fill(-1);
    this.next = new Int32Array(keys.length);
    // From the end, so that each chain runs upwards.
    for (let at = keys.length - 1; at >= 0; at--) {
      const slot = mixed(keys[at]!) & this.mask;
      this.next[at] = this.heads[slot]!;
      this.heads[slot] = at;
    }
  }

  /** The first place after `after` that holds the number, or -1. */
  find(key: number, after = -1): number {
    let at = after < 0 ? this.heads[mixed(key) & this.mask]! : this.next[after]!;
    while (at >= 0 && !Object.is(this.keys[at], key)) at = this.next[at]!;
    return at;
  }

  /** All places that hold the number, upwards. */
  *all(key: number): Generator<number> {
    for (let at = this.find(key); at >= 0; at = this.find(key, at)) yield at;
  }
}

const scratch = new Float64Array(1);
const words = new Uint32Array(scratch.buffer);

function mixed(key: number): number {
  scratch[0] = key;
  const folded =
    Math.imul(words[0]! ^ (words[0]! >>> 15), 0x2c1b3c6d) ^ Math.imul(words[1]!, 0x297a2d39);
  return folded ^ (folded >>> 13);
}

/** A 53-bit hash of a text, for telling texts apart; not cryptographic. */
export function hashText(text: string): number {
  let a = 0x9e3779b1;
  let b = 0x85ebca6b;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b + code, 0xc2b2ae35) ^ (b >>> 13);
  }
  return joined(a, b);
}

/** The same for a text that lies there as bytes; NaN where it is not plain ASCII. */
export function hashAscii(bytes: Uint8Array, from: number, to: number): number {
  let a = 0x9e3779b1;
  let b = 0x85ebca6b;
  for (let i = from; i < to; i++) {
    const code = bytes[i]!;
    if (code >= 0x80) return NaN;
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b + code, 0xc2b2ae35) ^ (b >>> 13);
  }
  return joined(a, b);
}

function joined(a: number, b: number): number {
  a = Math.imul(a ^ (a >>> 15), 0x2c1b3c6d);
  return ((b >>> 0) & 0x1fffff) * 0x1_0000_0000 + ((a ^ (b >>> 7)) >>> 0);
}
