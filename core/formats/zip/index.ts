import { SliceSource, u32le, type ByteSource } from '../../host';
import { inflateHead, unpack } from '../inflate';
import { safePath } from '../paths';
import {
  emptyPackage,
  HEAD_BYTES,
  PackageError,
  warning,
  type ListedFile,
  type OpenedPackage,
  type Opening,
  type PackageStep,
  type PackageFormat
} from '../types';
import { dataStart, LOCAL, LOCAL_SIZE, type Entry } from './entry';
import { centralEntries, END, localEntries } from './listing';
import { crcOf, EntryLocks, type EntryKey } from './locks';

function isZip(head: Uint8Array): boolean {
  if (head.length < 4) return false;
  const mark = u32le(head, 0);
  return mark === LOCAL || mark === END;
}

/**
 * Lists a zip file by its central directory; where that is lost, by the
 * local headers that can be followed. Encrypted entries are opened one by
 * one with the keys that fit; those that none fits are named as locked and do
 * not hinder the others.
 */
function* openZip(
  zip: ByteSource,
  prefix: string,
  opening: Opening
): Generator<PackageStep, OpenedPackage> {
  const result = emptyPackage('zip');
  const listed = centralEntries(zip);
  if (listed.damage !== null) result.notes.push(warning('damaged', listed.damage, zip.name));
  const all = listed.damage === null ? listed.entries : localEntries(zip);
  const entries = withoutOverlaps(all);
  if (entries.length < all.length)
    result.notes.push(overlapNote(zip.name, all.length - entries.length));
  const locks = new EntryLocks(zip, opening.keys, opening.scratch);
  let renamed = 0;
  let locked = 0;
  for (const [n, entry] of entries.entries()) {
    const safe = safePath(entry.name);
    if (!safe || /[/\\]$/.test(entry.name)) continue;
    if (safe.changed) renamed++;
    const file = yield* member({ zip, entry, path: prefix + safe.path, opening, locks });
    if (file.locked) locked++;
    result.files.push(file);
    if (n % 4096 === 0) yield { stage: 'unpack', done: n, total: entries.length };
  }
  if (renamed > 0) {
    const text = `${renamed} entries of ${zip.name} have paths that lead out of it; they are listed inside it.`;
    result.notes.push(warning('unsafe-path', text, zip.name));
  }
  if (locked > 0) {
    const text = `${locked} of ${entries.length} entries of ${zip.name} are encrypted: they are listed, but their contents cannot be read.`;
    result.notes.push(warning('locked-entries', text, zip.name));
    const reason = opening.keys.length === 0 ? 'key-needed' : 'wrong-key';
    result.lock = { reason, wants: 'password' };
  }
  return result;
}

/**
 * Entries that share bytes with one before them are left out: no program
 * writes them, and unpacking each would take longer than any file deserves.
 */
function withoutOverlaps(entries: readonly Entry[]): Entry[] {
  const ordered = [...entries].sort((a, b) => a.header - b.header);
  const kept = new Set<Entry>();
  let end = -1;
  for (const entry of ordered) {
    if (entry.header < end) continue;
    kept.add(entry);
    end = entry.header + LOCAL_SIZE + entry.packed;
  }
  return entries.filter((entry) => kept.has(entry));
}

function overlapNote(zip: string, count: number): ReturnType<typeof warning> {
  const text = `${count} entries of ${zip} share their bytes with other entries and were left out: the listing is damaged, or was made to overwhelm a reader.`;
  return warning('overlapping-entries', text, zip);
}

/** An entry of an archive, with what opens it. */
interface Member {
  zip: ByteSource;
  entry: Entry;
  path: string;
  opening: Opening;
  locks: EntryLocks;
}

function* member(from: Member): Generator<PackageStep, ListedFile> {
  const { zip, entry, path, locks } = from;
  const key = entry.encryption === null ? null : yield* keyOrNull(locks, entry, path);
  return {
    path,
    origin: zip.name,
    verbatim: false,
    size: entry.size,
    modifiedAt: entry.modifiedAt,
    createdAt: null,
    locked: entry.encryption !== null && key === null,
    head: () => headOf(from, key),
    open: () => opened(from, key)
  };
}

/** Damage is told when the entry is opened. */
function* keyOrNull(
  locks: EntryLocks,
  entry: Entry,
  path: string
): Generator<PackageStep, EntryKey | null> {
  try {
    return yield* locks.keyFor(entry, path);
  } catch (error) {
    if (error instanceof PackageError) return null;
    throw error;
  }
}

function* opened(from: Member, key: EntryKey | null): Generator<PackageStep, ByteSource> {
  const { entry, path, opening, zip } = from;
  const source = yield* unpacked(from, key);
  const isSame = entry.crc === null || crcOf(source) === entry.crc;
  const isUnchanged = isSame && (key === null || (yield* from.locks.isUnchanged(entry, path, key)));
  if (!isUnchanged) {
    const text = `${path} does not have the checksum that ${zip.name} keeps of it: it was damaged or changed after it was packed.`;
    opening.doubt?.(warning('checksum', text, path));
  }
  return source;
}

function* unpacked(from: Member, key: EntryKey | null): Generator<PackageStep, ByteSource> {
  const { zip, entry, path, opening, locks } = from;
  if (entry.encryption !== null && key === null)
    throw new PackageError(path, entry.header, 'the entry is encrypted');
  const packed = key ? yield* locks.packed(entry, path, key) : zip;
  const start = key ? 0 : dataStart(zip, entry, path);
  const length = key ? packed.size : entry.packed;
  if (entry.method === 0) return new SliceSource(path, packed, start, entry.size);
  if (entry.method !== 8)
    throw new PackageError(path, entry.header, `packing method ${entry.method} is not known`);
  const run = { source: packed, start, length, packing: 'raw' as const };
  return (yield* unpack(run, path, opening.scratch())).source;
}

/** Damage is told when the entry is opened; here it gives no bytes. */
function headOf(from: Member, key: EntryKey | null): Uint8Array {
  const { zip, entry, path } = from;
  if (entry.method !== 0 && entry.method !== 8) return new Uint8Array(0);
  try {
    if (entry.encryption !== null) return key ? headOfLocked(from, key) : new Uint8Array(0);
    const start = dataStart(zip, entry, path);
    if (entry.method === 0) return zip.read(start, Math.min(HEAD_BYTES, entry.size));
    return inflateHead({ source: zip, start, length: entry.packed, packing: 'raw' }, HEAD_BYTES);
  } catch (error) {
    if (error instanceof PackageError) return new Uint8Array(0);
    throw error;
  }
}

/** Packed bytes that surely hold the head of an entry. */
const HEAD_PACKED = 4 * HEAD_BYTES;

function headOfLocked({ entry, path, locks }: Member, key: EntryKey): Uint8Array {
  const packed = Math.min(entry.packed, HEAD_PACKED);
  const work = locks.packed(key.kind === 'aes' ? entry : { ...entry, packed }, path, key);
  let step = work.next();
  while (!step.done) step = work.next();
  const source = step.value;
  if (entry.method === 0) return source.read(0, Math.min(HEAD_BYTES, entry.size));
  return inflateHead({ source, start: 0, length: source.size, packing: 'raw' }, HEAD_BYTES);
}

export const ZIP: PackageFormat = {
  kind: 'zip',
  title: 'zip archive',
  begins: isZip,
  open: openZip
};
