import { PackageError, type PackageStep } from '../types';

/**
 * PBKDF2 (RFC 8018, section 5.2) that reports how far it is and can be left
 * at any step. The hashes run on words, because key bags ask for ten million
 * rounds.
 */
export type HashName = 'sha1' | 'sha256';

/** Rounds beyond this are refused before deriving; at a million a second it is a quarter of an hour. */
export const MOST_ROUNDS = 1_000_000_000;
const ROUNDS_A_STEP = 20_000;

export interface Derivation {
  hash: HashName;
  password: Uint8Array;
  salt: Uint8Array;
  rounds: number;
  /** Wanted bytes. */
  length: number;
}

export function* deriveKey(file: string, from: Derivation): Generator<PackageStep, Uint8Array> {
  if (!(from.rounds >= 1 && from.rounds <= MOST_ROUNDS)) {
    throw new PackageError(file, 0, `it asks for ${from.rounds} rounds of key derivation`);
  }
  const words = from.hash === 'sha1' ? 5 : 8;
  const blocks = Math.ceil(from.length / (words * 4));
  const out = new Uint8Array(blocks * words * 4);
  const hmac = new Hmac(from.hash, from.password);
  for (let block = 0; block < blocks; block++) {
    const total = yield* deriveBlock(hmac, from, block, blocks);
    for (let i = 0; i < words; i++) writeWord(out, (block * words + i) * 4, total[i]!);
  }
  return out.slice(0, from.length);
}

function* deriveBlock(
  hmac: Hmac,
  { salt, rounds }: Derivation,
  block: number,
  blocks: number
): Generator<PackageStep, Int32Array> {
  const first = new Uint8Array(salt.length + 4);
  first.set(salt);
  writeWord(first, salt.length, block + 1);
  const u = hmac.ofBytes(first);
  const total = u.slice();
  for (let round = 1; round < rounds; round++) {
    hmac.ofDigest(u);
    for (let i = 0; i < u.length; i++) total[i]! ^= u[i]!;
    if (round % ROUNDS_A_STEP === 0) {
      yield { stage: 'unlock', done: block * rounds + round, total: blocks * rounds };
    }
  }
  return total;
}

function writeWord(into: Uint8Array, at: number, word: number): void {
  into[at] = word >>> 24;
  into[at + 1] = word >>> 16;
  into[at + 2] = word >>> 8;
  into[at + 3] = word;
}

function readWord(from: Uint8Array, at: number): number {
  return (from[at]! << 24) | (from[at + 1]! << 16) | (from[at + 2]! << 8) | from[at + 3]!;
}

type Compress = (state: Int32Array, block: Int32Array) => void;

const START = {
  sha1: [0x67452301, 0xefcdab89, 0x98badcfe, 0x10325476, 0xc3d2e1f0],
  sha256: [
    0x6a09e667, 0xbb67ae85, 0x3c6ef372, 0xa54ff53a, 0x510e527f, 0x9b05688c, 0x1f83d9ab, 0x5be0cd19
  ]
};

/** HMAC (RFC 2104) with the states after its two pads kept. */
class Hmac {
  private readonly compress: Compress;
  private readonly inner: Int32Array;
  private readonly outer: Int32Array;
  private readonly block = new Int32Array(80);
  private readonly state: Int32Array;

  constructor(
    private readonly name: HashName,
    key: Uint8Array
  ) {
    this.compress = name === 'sha1' ? compressSha1 : compressSha256;
    const short = key.length > 64 ? toBytes(hashBytes(name, key)) : key;
    this.inner = this.padded(short, 0x36);
    this.outer = this.padded(short, 0x5c);
    this.state = new Int32Array(this.inner.length);
  }

  private padded(key: Uint8Array, pad: number): Int32Array {
    const bytes = new Uint8Array(64).fill(pad);
    key.forEach((byte, i) => (bytes[i] = byte ^ pad));
    const state = Int32Array.from(START[this.name]);
    for (let i = 0; i < 16; i++) this.block[i] = readWord(bytes, i * 4);
    this.compress(state, this.block);
    return state;
  }

  ofBytes(message: Uint8Array): Int32Array {
    const digest = hashBytes(this.name, message, this.inner);
    return this.finish(digest);
  }

  /** Replaces a digest by the HMAC of it. */
  ofDigest(digest: Int32Array): void {
    this.run(this.inner, digest);
    digest.set(this.state);
    this.run(this.outer, digest);
    digest.set(this.state);
  }

  private finish(digest: Int32Array): Int32Array {
    this.run(this.outer, digest);
    return this.state.slice();
  }

  /** One compression of a digest-long message behind a pad. */
  private run(from: Int32Array, digest: Int32Array): void {
    const { block, state } = this;
    const words = digest.length;
    for (let i = 0; i < words; i++) block[i] = digest[i]!;
    block[words] = 0x80000000 | 0;
    for (let i = words + 1; i < 15; i++) block[i] = 0;
    block[15] = (64 + words * 4) * 8;
    state.set(from);
    this.compress(state, block);
  }
}

/** Plain hash, or the rest of one whose first 64 bytes gave `from`. */
function hashBytes(name: HashName, message: Uint8Array, from?: Int32Array): Int32Array {
  const compress = name === 'sha1' ? compressSha1 : compressSha256;
  const state = from ? from.slice() : Int32Array.from(START[name]);
  const before = from ? 64 : 0;
  const padded = new Uint8Array(Math.ceil((message.length + 9) / 64) * 64);
  padded.set(message);
  padded[message.length] = 0x80;
  writeWord(padded, padded.length - 4, (message.length + before) * 8);
  const block = new Int32Array(80);
  for (let at = 0; at < padded.length; at += 64) {
    for (let i = 0; i < 16; i++) block[i] = readWord(padded, at + i * 4);
    compress(state, block);
  }
  return state;
}

function toBytes(words: Int32Array): Uint8Array {
  const out = new Uint8Array(words.length * 4);
  words.forEach((word, i) => writeWord(out, i * 4, word));
  return out;
}

/** FIPS 180-4, section 6.1.2. */
function compressSha1(h: Int32Array, w: Int32Array): void {
  for (let t = 16; t < 80; t++) {
    const x = w[t - 3]! ^ w[t - 8]! ^ w[t - 14]! ^ w[t - 16]!;
    w[t] = (x << 1) | (x >>> 31);
  }
  let a = h[0]!;
  let b = h[1]!;
  let c = h[2]!;
  let d = h[3]!;
  let e = h[4]!;
  for (let t = 0; t < 80; t++) {
    const f =
      t < 20
        ? ((b & c) | (~b & d)) + 0x5a827999
        : t < 40
          ? (b ^ c ^ d) + 0x6ed9eba1
          : t < 60
            ? ((b & c) | (b & d) | (c & d)) + 0x8f1bbcdc
            : (b ^ c ^ d) + 0xca62c1d6;
    const next = (((a << 5) | (a >>> 27)) + f + e + w[t]!) | 0;
    e = d;
    d = c;
    c = (b << 30) | (b >>> 2);
    b = a;
    a = next;
  }
  h[0] = (h[0]! + a) | 0;
  h[1] = (h[1]! + b) | 0;
  h[2] = (h[2]! + c) | 0;
  h[3] = (h[3]! + d) | 0;
  h[4] = (h[4]! + e) | 0;
}

/** The fractional parts of the cube roots of the first 64 primes (FIPS 180-4, section 4.2.2). */
const K256 = Int32Array.from(primes(64), (p) => fraction(Math.cbrt(p)));

function primes(count: number): number[] {
  const found: number[] = [];
  for (let n = 2; found.length < count; n++) {
    if (found.every((p) => n % p !== 0)) found.push(n);
  }
  return found;
}

function fraction(x: number): number {
  return Math.floor((x - Math.floor(x)) * 2 ** 32) | 0;
}

/** FIPS 180-4, section 6.2.2. */
function compressSha256(h: Int32Array, w: Int32Array): void {
  for (let t = 16; t < 64; t++) {
    const x = w[t - 15]!;
    const y = w[t - 2]!;
    const s0 = ((x >>> 7) | (x << 25)) ^ ((x >>> 18) | (x << 14)) ^ (x >>> 3);
    const s1 = ((y >>> 17) | (y << 15)) ^ ((y >>> 19) | (y << 13)) ^ (y >>> 10);
    w[t] = (w[t - 16]! + s0 + w[t - 7]! + s1) | 0;
  }
  let a = h[0]!;
  let b = h[1]!;
  let c = h[2]!;
  let d = h[3]!;
  let e = h[4]!;
  let f = h[5]!;
  let g = h[6]!;
  let i = h[7]!;
  for (let t = 0; t < 64; t++) {
    const s1 = ((e >>> 6) | (e << 26)) ^ ((e >>> 11) | (e << 21)) ^ ((e >>> 25) | (e << 7));
    const t1 = (i + s1 + ((e & f) ^ (~e & g)) + K256[t]! + w[t]!) | 0;
    const s0 = ((a >>> 2) | (a << 30)) ^ ((a >>> 13) | (a << 19)) ^ ((a >>> 22) | (a << 10));
    const t2 = (s0 + ((a & b) ^ (a & c) ^ (b & c))) | 0;
    i = g;
    g = f;
    f = e;
    e = (d + t1) | 0;
    d = c;
    c = b;
    b = a;
    a = (t1 + t2) | 0;
  }
  h[0] = (h[0]! + a) | 0;
  h[1] = (h[1]! + b) | 0;
  h[2] = (h[2]! + c) | 0;
  h[3] = (h[3]! + d) | 0;
  h[4] = (h[4]! + e) | 0;
  h[5] = (h[5]! + f) | 0;
  h[6] = (h[6]! + g) | 0;
  h[7] = (h[7]! + i) | 0;
}
