import { hmac } from '@noble/hashes/hmac.js';
import { sha1 } from '@noble/hashes/legacy.js';
import { pbkdf2 } from '@noble/hashes/pbkdf2.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { toHex } from '../../host';
import { PackageError, type PackageStep } from '../types';

/**
 * PBKDF2 (RFC 8018, section 5.2). Few rounds are done at once; many are left
 * to the host's own library, which does them beside this thread and several
 * times faster. Key bags ask for ten million.
 */
export type HashName = 'sha1' | 'sha256';

/** Rounds beyond this are refused before deriving; at a million a second it is a quarter of an hour. */
export const MOST_ROUNDS = 1_000_000_000;
/** Rounds that are done at once: some hundredths of a second. */
const MOST_AT_ONCE = 20_000;
/** Rounds by which it is measured how fast the host is. */
const MEASURED = 50_000;
/** How often it is told how far a derivation is, in milliseconds. */
const TOLD_EVERY = 200;

export interface Derivation {
  hash: HashName;
  password: Uint8Array;
  salt: Uint8Array;
  rounds: number;
  /** Wanted bytes. */
  length: number;
}

/**
 * The derived bytes. Steps with `until` have to be waited for before the next.
 * @throws PackageError for rounds that nobody means
 */
export function* deriveKey(file: string, from: Derivation): Generator<PackageStep, Uint8Array> {
  if (!(from.rounds >= 1 && from.rounds <= MOST_ROUNDS)) {
    throw new PackageError(file, 0, `it requires ${from.rounds} rounds of key derivation`);
  }
  if (from.rounds <= MOST_AT_ONCE) return atOnce(from);
  const name = nameOf(from);
  const known = derived.get(name);
  if (known) return known.slice();
  const key = yield* byHost(from);
  derived.set(name, key);
  for (const oldest of [...derived.keys()].slice(0, -MOST_KNOWN)) derived.delete(oldest);
  return key.slice();
}

/**
 * What was derived in this thread, so that a source that is examined, shown
 * and examined again derives its key once. It is gone with the thread.
 */
const derived = new Map<string, Uint8Array>();
const MOST_KNOWN = 64;

/** What a derivation is known by: a checksum, for the password itself is not kept. */
function nameOf({ hash, password, salt, rounds, length }: Derivation): string {
  const of = hmac(sha256, password, salt);
  return `${hash} ${rounds} ${length} ${toHex(of)} ${toHex(salt)}`;
}

function atOnce({ hash, password, salt, rounds, length }: Derivation): Uint8Array {
  return pbkdf2(hash === 'sha1' ? sha1 : sha256, password, salt, { c: rounds, dkLen: length });
}

function* byHost(from: Derivation): Generator<PackageStep, Uint8Array> {
  const { rounds } = from;
  const begun = performance.now();
  // The first rounds tell how long all will take.
  const measure = new Outcome(hostKey({ ...from, rounds: Math.min(MEASURED, rounds) }));
  yield { stage: 'unlock', done: 0, total: rounds, until: measure.settled };
  const perRound = Math.max(1, performance.now() - begun) / Math.min(MEASURED, rounds);
  const outcome = new Outcome(hostKey(from));
  const start = performance.now();
  while (!outcome.isOver) {
    const done = Math.min(rounds * 0.99, (performance.now() - start) / perRound);
    yield { stage: 'unlock', done, total: rounds, until: outcome.within(TOLD_EVERY) };
  }
  return outcome.value();
}

/** A promise whose outcome can be asked for. */
class Outcome {
  isOver = false;
  readonly settled: Promise<void>;
  private key: Uint8Array | null = null;
  private error: unknown = null;

  constructor(promise: Promise<Uint8Array>) {
    this.settled = promise.then(
      (key) => void ([this.key, this.isOver] = [key, true]),
      (error: unknown) => void ([this.error, this.isOver] = [error, true])
    );
  }

  /** When it is over, and after so many milliseconds at the latest. */
  within(milliseconds: number): Promise<void> {
    return Promise.race([
      this.settled,
      new Promise<void>((resolve) => setTimeout(resolve, milliseconds))
    ]);
  }

  value(): Uint8Array {
    if (this.key === null) throw this.error;
    return this.key;
  }
}

/** By the library of the browser or of Node, in a thread of its own. */
async function hostKey(from: Derivation): Promise<Uint8Array> {
  const { hash, password, salt, rounds, length } = from;
  const { subtle } = globalThis.crypto;
  const raw = Uint8Array.from(password);
  const key = await subtle.importKey('raw', raw, 'PBKDF2', false, ['deriveBits']);
  const name = hash === 'sha1' ? 'SHA-1' : 'SHA-256';
  const how = { name: 'PBKDF2', hash: name, salt: Uint8Array.from(salt), iterations: rounds };
  return new Uint8Array(await subtle.deriveBits(how, key, length * 8));
}
