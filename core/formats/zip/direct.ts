// An archive read by whoever has it whole, without keys, scratch files or notes: packages that were produced, and files that leave in one.
import { Inflate } from 'fflate';
import type { ByteSource } from '../../host';
import { PackageError } from '../types';
import { dataStart, type Entry } from './entry';
import { centralEntries } from './listing';

/** Packed bytes that are taken at once: they never unpack to more than some thirty megabytes. */
const STEP = 1 << 15;

/**
 * The entries of an archive by its central directory, without its folders.
 * @throws PackageError where the directory is lost or damaged
 */
export function zipEntries(zip: ByteSource): Entry[] {
  const { entries, damage } = centralEntries(zip);
  if (damage !== null) throw new PackageError(zip.name, 0, 'its listing is lost or damaged');
  return entries.filter(({ name }) => !name.endsWith('/'));
}

/**
 * The bytes of an entry, piece by piece. The archive's own checksum is left to
 * who reads them: one hashes what comes, the other searches it whatever it is.
 * @throws PackageError where it is encrypted, damaged, packed in a way that is not known, or not as long as the directory says
 */
export function* entryBytes(zip: ByteSource, entry: Entry): Generator<Uint8Array> {
  const fail = (reason: string): PackageError => new PackageError(entry.name, entry.header, reason);
  if (entry.encryption !== null) throw fail('the entry is encrypted');
  if (entry.method !== 0 && entry.method !== 8)
    throw fail(`packing method ${entry.method} is not known`);
  const start = dataStart(zip, entry, entry.name);
  const packed = piecesOf(zip, start, entry.packed);
  let size = 0;
  for (const piece of entry.method === 0 ? packed : inflated(packed, entry)) {
    size += piece.length;
    if (size > entry.size) throw fail('it unpacks to more than it says');
    yield piece;
  }
  if (size < entry.size) throw fail('it ends early');
}

function* piecesOf(zip: ByteSource, start: number, length: number): Generator<Uint8Array> {
  for (let at = 0; at < length;) {
    const piece = zip.read(start + at, Math.min(STEP, length - at));
    if (piece.length === 0) return;
    at += piece.length;
    yield piece;
  }
}

function* inflated(packed: Iterable<Uint8Array>, entry: Entry): Generator<Uint8Array> {
  let out: Uint8Array[] = [];
  const stream = new Inflate((bytes) => out.push(bytes));
  try {
    for (const piece of packed) {
      stream.push(piece.slice());
      yield* out;
      out = [];
    }
    stream.push(new Uint8Array(0), true);
  } catch (error) {
    if (!(error instanceof Error) || error instanceof PackageError) throw error;
    throw new PackageError(
      entry.name,
      entry.header,
      `the packed data are damaged (${error.message})`
    );
  }
  yield* out;
}
