import { ecb } from '@noble/ciphers/aes.js';
import { hmac } from '@noble/hashes/hmac.js';
import { sha1 } from '@noble/hashes/legacy.js';
import type { ByteSource } from '../../host';
import { deriveKey } from '../keys/derive';
import type { PackageStep } from '../types';

/** Rounds of PBKDF2-HMAC-SHA1 that the format fixes. */
const ROUNDS = 1000;
const BLOCK = 16;
/** Bytes before the data that tell a wrong password, and bytes of the checksum behind them. */
const VERIFIER = 2;
const MAC = 10;

/** Where the parts of an encrypted run lie: salt, verifier, data, the first ten bytes of an HMAC-SHA1. */
export interface AesRun {
  start: number;
  length: number;
  keyBytes: 16 | 24 | 32;
}

export interface AesKeys {
  cipher: Uint8Array;
  mac: Uint8Array;
}

/** The keys that a password gives for a run; null when it is the wrong one (one in 65,536 wrong ones passes). */
export function* aesKeys(
  zip: ByteSource,
  run: AesRun,
  password: Uint8Array
): Generator<PackageStep, AesKeys | null> {
  const saltBytes = run.keyBytes / 2;
  const head = zip.read(run.start, saltBytes + VERIFIER);
  if (head.length < saltBytes + VERIFIER) return null;
  const length = 2 * run.keyBytes + VERIFIER;
  const salt = head.subarray(0, saltBytes);
  const from = { hash: 'sha1' as const, password, salt, rounds: ROUNDS, length };
  const derived = yield* deriveKey(zip.name, from);
  const fits = derived.subarray(-VERIFIER).every((byte, i) => byte === head[saltBytes + i]);
  if (!fits) return null;
  const { keyBytes } = run;
  return { cipher: derived.slice(0, keyBytes), mac: derived.slice(keyBytes, 2 * keyBytes) };
}

/** The encrypted data of a run, without what stands around them. */
function dataOf({ start, length, keyBytes }: AesRun): { start: number; length: number } {
  const before = keyBytes / 2 + VERIFIER;
  return { start: start + before, length: Math.max(0, length - before - MAC) };
}

const STEP = 1 << 18;

/** Whether the checksum behind the data is that of the data. */
export function* isUnchanged(
  zip: ByteSource,
  run: AesRun,
  { mac }: AesKeys
): Generator<PackageStep, boolean> {
  const { start, length } = dataOf(run);
  const sum = hmac.create(sha1, mac);
  for (let done = 0; done < length; done += STEP) {
    sum.update(zip.read(start + done, Math.min(STEP, length - done)));
    yield { stage: 'unpack', done, total: length };
  }
  const told = zip.read(start + length, MAC);
  const own = sum.digest();
  return told.length === MAC && told.every((byte, i) => byte === own[i]);
}

/** Reads the data of a run as if they were plain. The counter begins at one, its lowest byte first. */
export class AesSource implements ByteSource {
  readonly size: number;
  private readonly start: number;

  constructor(
    readonly name: string,
    private readonly zip: ByteSource,
    run: AesRun,
    private readonly keys: AesKeys
  ) {
    const data = dataOf(run);
    this.start = data.start;
    this.size = Math.max(0, Math.min(data.length, zip.size - data.start));
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset < 0 || offset >= end) return new Uint8Array(0);
    const bytes = new Uint8Array(this.zip.read(this.start + offset, end - offset));
    const first = Math.floor(offset / BLOCK);
    const blocks = Math.ceil(end / BLOCK) - first;
    const stream = ecb(this.keys.cipher, { disablePadding: true }).encrypt(counters(first, blocks));
    const shift = offset - first * BLOCK;
    for (let i = 0; i < bytes.length; i++) bytes[i]! ^= stream[shift + i]!;
    return bytes;
  }
}

function counters(first: number, blocks: number): Uint8Array {
  const out = new Uint8Array(blocks * BLOCK);
  const view = new DataView(out.buffer);
  for (let i = 0; i < blocks; i++) view.setBigUint64(i * BLOCK, BigInt(first + i + 1), true);
  return out;
}
