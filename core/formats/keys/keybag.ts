import { u32be } from '../../host';
import { PackageError, type PackageStep } from '../types';
import { unwrapKey } from './aes';
import { deriveKey } from './derive';

/** The key bag of a manifest backup: tags of four letters, a length and a value each. */
export interface KeyBag {
  salt: Uint8Array;
  rounds: number;
  /** Salt and rounds of the first derivation; null in older bags, which have one only. */
  outer: { salt: Uint8Array; rounds: number } | null;
  /** Class number to wrapped key. */
  classes: Map<number, Uint8Array>;
}

const utf8 = new TextEncoder();

/** @throws PackageError */
export function parseKeyBag(bytes: Uint8Array, file: string): KeyBag {
  const head = new Map<string, Uint8Array>();
  const classes = new Map<number, Uint8Array>();
  let current: Map<string, Uint8Array> | null = null;
  for (const { tag, value } of tagsOf(bytes)) {
    // The first identifier is the bag's own; each later one begins a class key.
    if (tag === 'UUID' && head.has('UUID')) {
      keep(classes, current);
      current = new Map();
    }
    (current ?? head).set(tag, value);
  }
  keep(classes, current);
  const salt = head.get('SALT');
  const rounds = numberOf(head.get('ITER'));
  if (!salt || rounds === null)
    throw new PackageError(file, 0, 'the key bag has no salt or rounds');
  const outerSalt = head.get('DPSL');
  const outerRounds = numberOf(head.get('DPIC'));
  const outer = outerSalt && outerRounds !== null ? { salt: outerSalt, rounds: outerRounds } : null;
  return { salt, rounds, outer, classes };
}

function* tagsOf(bytes: Uint8Array): Generator<{ tag: string; value: Uint8Array }> {
  for (let at = 0; at + 8 <= bytes.length;) {
    const tag = String.fromCharCode(...bytes.subarray(at, at + 4));
    const length = u32be(bytes, at + 4);
    if (at + 8 + length > bytes.length) return;
    yield { tag, value: bytes.subarray(at + 8, at + 8 + length) };
    at += 8 + length;
  }
}

function keep(classes: Map<number, Uint8Array>, tags: Map<string, Uint8Array> | null): void {
  const number = numberOf(tags?.get('CLAS'));
  const wrapped = tags?.get('WPKY');
  if (number === null || !wrapped) return;
  classes.set(number, wrapped);
}

function numberOf(bytes: Uint8Array | undefined): number | null {
  return bytes?.length === 4 ? u32be(bytes, 0) : null;
}

/**
 * Unlocks the class keys that the password alone opens. Null when it opens
 * none of them, so the password is wrong. Keys that need the device's own key
 * too do not open and prove nothing: the check value of the others decides.
 */
export function* unlockKeyBag(
  bag: KeyBag,
  password: string,
  file: string
): Generator<PackageStep, Map<number, Uint8Array> | null> {
  let secret: Uint8Array = utf8.encode(password);
  if (bag.outer) {
    secret = yield* deriveKey(file, { hash: 'sha256', password: secret, ...bag.outer, length: 32 });
  }
  const { salt, rounds } = bag;
  const key = yield* deriveKey(file, { hash: 'sha1', password: secret, salt, rounds, length: 32 });
  const keys = new Map<number, Uint8Array>();
  for (const [number, wrapped] of bag.classes) {
    const opened = unwrapKey(key, wrapped);
    if (opened) keys.set(number, opened);
  }
  return keys.size > 0 ? keys : null;
}
