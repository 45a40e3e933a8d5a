import { ownRoom, type MakeRoom } from './shared';

/** Bits for each place of the heads, a power of two. */
const BITS_EACH = 4;

/** The arrays of an index, as another thread can take them over. */
export interface PackedIndex {
  keys: Float64Array;
  heads: Int32Array;
  next: Int32Array;
  bits: Uint32Array;
}

function emptyParts(keys: Float64Array, room: MakeRoom): PackedIndex {
  let size = 16;
  while (size < keys.length * 1.5) size *= 2;
  return {
    keys,
    heads: new Int32Array(room(size * 4)).fill(-1),
    next: new Int32Array(room(keys.length * 4)),
    bits: new Uint32Array(room((size * BITS_EACH) / 8))
  };
}

/**
 * Finds the places at which a number stands in a column of numbers: a hash
 * table of typed arrays, 12 bytes an entry and less than half of that for its
 * heads. NaN is a number like others here. Most numbers that are asked for are
 * not there, which a bit for each of their hashes tells: those stay at hand
 * where the table does not.
 */
export class NumberIndex {
  private readonly keys: Float64Array;
  private readonly heads: Int32Array;
  private readonly next: Int32Array;
  private readonly mask: number;
  private readonly bits: Uint32Array;
  private readonly bitMask: number;

  /** An index of these numbers, which stay as they are; or one that was {@link pack}ed. */
  constructor(from: Float64Array | PackedIndex, room = ownRoom) {
    const parts = from instanceof Float64Array ? emptyParts(from, room) : from;
    this.keys = parts.keys;
    this.heads = parts.heads;
    this.next = parts.next;
    this.bits = parts.bits;
    this.mask = this.heads.length - 1;
    this.bitMask = this.heads.length * BITS_EACH - 1;
    if (from instanceof Float64Array) this.fill(from);
  }

  /** The index in a form that can be handed to another thread, without copying what lies in memory that threads share. */
  pack(): PackedIndex {
    const { keys, heads, next, bits } = this;
    return { keys, heads, next, bits };
  }

  private fill(keys: Float64Array): void {
    // From the end, so that each chain runs upwards.
    for (let at = keys.length - 1; at >= 0; at--) {
      const hash = mixed(keys[at]!);
      const slot = hash & this.mask;
      this.bits[(hash & this.bitMask) >>> 5]! |= 1 << (hash & 31);
      this.next[at] = this.heads[slot]!;
      this.heads[slot] = at;
    }
  }

  /** The first place after `after` that holds the number, or -1. */
  find(key: number, after = -1): number {
    let at = after < 0 ? this.first(key) : this.next[after]!;
    while (at >= 0 && !Object.is(this.keys[at], key)) at = this.next[at]!;
    return at;
  }

  /** Whether the number at a place stands there alone. */
  isAlone(place: number): boolean {
    const key = this.keys[place]!;
    return this.find(key) === place && this.find(key, place) < 0;
  }

  /** The first place whose number has the same hash. */
  private first(key: number): number {
    const hash = mixed(key);
    const isThere = (this.bits[(hash & this.bitMask) >>> 5]! >>> (hash & 31)) & 1;
    return isThere === 1 ? this.heads[hash & this.mask]! : -1;
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
