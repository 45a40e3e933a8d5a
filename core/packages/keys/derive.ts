import { hmac } from '@noble/hashes/hmac.js';
import { sha1 } from '@noble/hashes/legacy.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { PackageError, type PackageStep } from '../types';

/**
 * PBKDF2 (RFC 8018, section 5.2) that reports how far it is and can be left
 * at any step, because key bags ask for ten million rounds.
 */
export type HashName = 'sha1' | 'sha256';

/** Rounds beyond this are refused before deriving; at 400,000 a second it is three quarters of an hour. */
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
  const keyed = hmac.create(from.hash === 'sha1' ? sha1 : sha256, from.password);
  const blocks = Math.ceil(from.length / keyed.outputLen);
  const out = new Uint8Array(blocks * keyed.outputLen);
  for (let block = 0; block < blocks; block++)
    out.set(yield* deriveBlock(keyed, from, block, blocks), block * keyed.outputLen);
  keyed.destroy();
  return out.slice(0, from.length);
}

type Keyed = ReturnType<typeof hmac.create>;

function* deriveBlock(
  keyed: Keyed,
  { salt, rounds }: Derivation,
  block: number,
  blocks: number
): Generator<PackageStep, Uint8Array> {
  const number = new Uint8Array(4);
  new DataView(number.buffer).setUint32(0, block + 1);
  const round = keyed._cloneInto();
  const u = round.update(salt).update(number).digest();
  const total = u.slice();
  for (let done = 1; done < rounds; done++) {
    keyed._cloneInto(round).update(u).digestInto(u);
    for (let i = 0; i < u.length; i++) total[i]! ^= u[i]!;
    if (done % ROUNDS_A_STEP === 0)
      yield { stage: 'unlock', done: block * rounds + done, total: blocks * rounds };
  }
  return total;
}
