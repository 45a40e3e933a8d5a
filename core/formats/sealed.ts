import { gcm } from '@noble/ciphers/aes.js';
import { hkdf } from '@noble/hashes/hkdf.js';
import { hmac } from '@noble/hashes/hmac.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { Unzlib } from 'fflate';
import { z } from 'zod';
import { fromHex, u32be, type ByteSource } from '../host';
import { deriveKey, MOST_ROUNDS } from './keys/derive';
import { safePath } from './paths';
import {
  emptyPackage,
  PackageError,
  plainFile,
  warning,
  type OpenedPackage,
  type Opening,
  type PackageStep,
  type PackageFormat
} from './types';

/** The format is ours and open: docs/sealed-store.md describes it. */
const MAGIC = 'SEALED-STORE 1\n\0';
const HEAD_AT = MAGIC.length;
const MOST_HEADER = 65_536;
const TAG = 16;
const latin = new TextDecoder('latin1');
const utf8 = new TextEncoder();

const hex = (bytes?: number): z.ZodType<string> =>
  z
    .string()
    .regex(bytes === undefined ? /^([0-9a-f]{2})+$/ : new RegExp(`^[0-9a-f]{${bytes * 2}}$`));

const headerSchema = z.object({
  name: z.string().max(255),
  bytes: z.number().int().min(0),
  chunk: z
    .number()
    .int()
    .min(16)
    .max(1 << 26),
  nonce: hex(8),
  check: hex(16),
  derive: z.discriminatedUnion('by', [
    z.object({ by: z.literal('hkdf-sha256'), salt: hex(), info: z.string() }),
    z.object({
      by: z.literal('pbkdf2-sha256'),
      salt: hex(),
      rounds: z.number().int().min(1).max(MOST_ROUNDS)
    })
  ])
});

type Header = z.infer<typeof headerSchema>;

function isSealed(head: Uint8Array): boolean {
  return latin.decode(head.subarray(0, MAGIC.length)) === MAGIC;
}

/** Opens a sealed store: one SQLite file, packed, in chunks that are each encrypted and signed. */
function* openSealed(sealed: ByteSource, opening: Opening): Generator<PackageStep, OpenedPackage> {
  const { header, dataStart } = readHeader(sealed);
  const result = emptyPackage('sealed-store');
  const key = yield* findKey(sealed.name, header, opening.keys);
  if (!key) {
    const reason = opening.keys.length === 0 ? 'key-needed' : 'wrong-key';
    return { ...result, lock: { reason, wants: 'password-or-hex-key' } };
  }
  const into = opening.scratch();
  const problem = yield* unseal(sealed, dataStart, header, key, (bytes) => into.write(bytes));
  const name = safePath(header.name)?.path ?? 'store.db';
  const path = `${sealed.name}/${name}`;
  if (problem !== null || into.size !== header.bytes) {
    const text = `${sealed.name}: ${problem ?? 'the data end early'}; ${into.size} of ${header.bytes} bytes could be decrypted.`;
    result.notes.push(warning('damaged', text, sealed.name));
  }
  result.files.push(plainFile(path, into.finish(path)));
  return result;
}

/** @throws PackageError */
function readHeader(sealed: ByteSource): { header: Header; dataStart: number } {
  const length = sealed.read(HEAD_AT, 4);
  const size = length.length === 4 ? u32be(length, 0) : 0;
  if (size === 0 || size > MOST_HEADER) {
    throw new PackageError(sealed.name, HEAD_AT, `its header cannot be ${size} bytes long`);
  }
  const text = new TextDecoder().decode(sealed.read(HEAD_AT + 4, size));
  try {
    const header = headerSchema.parse(JSON.parse(text));
    return { header, dataStart: HEAD_AT + 4 + size };
  } catch (error) {
    if (!(error instanceof SyntaxError) && !(error instanceof z.ZodError)) throw error;
    throw new PackageError(sealed.name, HEAD_AT + 4, 'its header is damaged');
  }
}

function* findKey(
  file: string,
  header: Header,
  keys: readonly string[]
): Generator<PackageStep, Uint8Array | null> {
  for (const text of keys) {
    const key = yield* keyFrom(file, header, text);
    if (!key) continue;
    const check = hmac(sha256, key, utf8.encode('check')).subarray(0, 16);
    if (check.every((byte, i) => byte === fromHex(header.check)![i])) return key;
  }
  return null;
}

/** A hex key goes through HKDF (RFC 5869), a password through PBKDF2; the header says which is wanted. */
function* keyFrom(
  file: string,
  { derive }: Header,
  text: string
): Generator<PackageStep, Uint8Array | null> {
  const salt = fromHex(derive.salt)!;
  if (derive.by === 'pbkdf2-sha256') {
    const password = utf8.encode(text);
    return yield* deriveKey(file, {
      hash: 'sha256',
      password,
      salt,
      rounds: derive.rounds,
      length: 32
    });
  }
  const raw = fromHex(text.replace(/\s/g, ''));
  return raw?.length === 32 ? hkdf(sha256, raw, salt, utf8.encode(derive.info), 32) : null;
}

/** Decrypts chunk by chunk until one does not agree with its signature; returns why it ended early. */
function* unseal(
  sealed: ByteSource,
  start: number,
  header: Header,
  key: Uint8Array,
  write: (bytes: Uint8Array) => void
): Generator<PackageStep, string | null> {
  const stream = new Unzlib(write);
  const nonce = new Uint8Array(12);
  nonce.set(fromHex(header.nonce)!);
  const step = header.chunk + TAG;
  const count = Math.ceil((sealed.size - start) / step);
  for (let n = 0; n < count; n++) {
    new DataView(nonce.buffer).setUint32(8, n);
    const packed = sealed.read(start + n * step, step);
    const plain = openChunk(key, nonce, packed);
    if (!plain) return `chunk ${n + 1} of ${count} does not agree with its signature`;
    try {
      stream.push(plain, n === count - 1);
    } catch (error) {
      if (error instanceof Error) return `the packed data are damaged (${error.message})`;
      throw error;
    }
    yield { stage: 'unlock', done: n + 1, total: count };
  }
  return null;
}

function openChunk(key: Uint8Array, nonce: Uint8Array, packed: Uint8Array): Uint8Array | null {
  if (packed.length <= TAG) return null;
  try {
    return gcm(key, nonce).decrypt(packed);
  } catch (error) {
    if (error instanceof Error) return null;
    throw error;
  }
}

export const SEALED: PackageFormat = {
  kind: 'sealed-store',
  title: 'sealed store',
  begins: isSealed,
  open: (source, _prefix, opening) => openSealed(source, opening)
};
