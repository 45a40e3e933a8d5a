import { crc32, type ByteSource, type Scratch } from '../../host';
import { unpackInto } from '../inflate';
import { PackageError, type PackageStep } from '../types';
import { AesSource, aesKeys, isUnchanged, type AesKeys, type AesRun } from './aes';
import { dataStart, type Entry } from './entry';
import { decrypted, HEADER, mayFit } from './traditional';

/** What opens an entry. */
export type EntryKey =
  { kind: 'traditional'; password: Uint8Array } | { kind: 'aes'; keys: AesKeys };

/** Packed bytes of an entry that is unpacked as a trial of a password. */
const MOST_TRIAL = 16 << 20;

/** Tries the passwords of a pass on the entries of one archive; one that opened an entry is tried first on the next. */
export class EntryLocks {
  private passwords: Uint8Array[];
  /** Passwords that were borne out by an entry's checksum. */
  private readonly proven = new Set<Uint8Array>();

  constructor(
    private readonly zip: ByteSource,
    keys: readonly string[],
    private readonly scratch: Scratch
  ) {
    this.passwords = keys.flatMap(bytesOf);
  }

  /** What opens the entry; null when no password does. */
  *keyFor(entry: Entry, path: string): Generator<PackageStep, EntryKey | null> {
    for (const password of this.passwords) {
      const key = yield* this.tried(entry, path, password);
      if (!key) continue;
      this.passwords = [password, ...this.passwords.filter((other) => other !== password)];
      return key;
    }
    return null;
  }

  private *tried(
    entry: Entry,
    path: string,
    password: Uint8Array
  ): Generator<PackageStep, EntryKey | null> {
    const { encryption } = entry;
    if (encryption === null || encryption === 'unknown') return null;
    const start = dataStart(this.zip, entry, path);
    if (encryption.kind === 'aes') {
      const keys = yield* aesKeys(this.zip, aesRun(entry, start), password);
      return keys && { kind: 'aes', keys };
    }
    if (!mayFit(this.zip.read(start, HEADER), password, entry.check)) return null;
    const key: EntryKey = { kind: 'traditional', password };
    if (this.proven.has(password) || entry.crc === null || entry.packed > MOST_TRIAL) return key;
    if (!(yield* this.isBorneOut(entry, path, key))) return null;
    this.proven.add(password);
    return key;
  }

  private *isBorneOut(entry: Entry, path: string, key: EntryKey): Generator<PackageStep, boolean> {
    const packed = yield* this.packed(entry, path, key);
    if (entry.method === 0) return crcOf(packed) === entry.crc;
    if (entry.method !== 8) return true;
    const into = this.scratch();
    const run = { source: packed, start: 0, length: packed.size, packing: 'raw' as const };
    yield* unpackInto(run, into);
    return crcOf(into.finish(path)) === entry.crc;
  }

  /** The entry's bytes as they were packed. */
  *packed(entry: Entry, path: string, key: EntryKey): Generator<PackageStep, ByteSource> {
    const start = dataStart(this.zip, entry, path);
    if (key.kind === 'aes') return new AesSource(path, this.zip, aesRun(entry, start), key.keys);
    const into = this.scratch();
    yield* decrypted(this.zip, start, entry.packed, key.password, into);
    return into.finish(path);
  }

  /** Whether the archive's own check of the encrypted bytes holds, where it has one. */
  *isUnchanged(entry: Entry, path: string, key: EntryKey): Generator<PackageStep, boolean> {
    if (key.kind !== 'aes') return true;
    const run = aesRun(entry, dataStart(this.zip, entry, path));
    return yield* isUnchanged(this.zip, run, key.keys);
  }
}

/** @throws PackageError when the entry is not encrypted in that way. */
function aesRun({ encryption, packed, header, name }: Entry, start: number): AesRun {
  if (encryption === null || encryption === 'unknown' || encryption.kind !== 'aes')
    throw new PackageError(name, header, 'its encryption is not known');
  return { start, length: packed, keyBytes: encryption.keyBytes };
}

/** A password as the programs of different systems encode it. */
function bytesOf(password: string): Uint8Array[] {
  const utf8 = new TextEncoder().encode(password);
  const isLatin = /^[\0-\u00ff]*$/.test(password) && /[^\0-\u007f]/.test(password);
  return isLatin ? [utf8, Uint8Array.from(password, (char) => char.charCodeAt(0))] : [utf8];
}

const STEP = 1 << 20;

/** CRC-32 of a whole source. */
export function crcOf(source: ByteSource): number {
  let crc = 0;
  for (let at = 0; at < source.size; at += STEP) crc = crc32(source.read(at, STEP), crc);
  return crc;
}
