import { BlobReader, configure, ZipReader, type FileEntry } from '@zip.js/zip.js';
import type { Package } from './verify';

/** Adds up a checksum. */
export interface RunningHash {
  update(bytes: Uint8Array): void;
  /** In hexadecimal. */
  digest(): string;
}

/** Bytes that are no archive, or a damaged one. */
export class PackageError extends Error {
  override readonly name = 'PackageError';
}

configure({ useWebWorkers: false });

/**
 * A package in an archive, read by its central directory: what lies inside its
 * files, other archives for instance, is not taken for its own.
 * @throws PackageError
 */
export async function packedPackage(archive: Blob, newHash: () => RunningHash): Promise<Package> {
  const entries = await entriesOf(archive);
  const mark = entries.find(({ filename }) => /(^|\/)bagit\.txt$/.test(filename));
  const prefix = mark?.filename.slice(0, -'bagit.txt'.length) ?? '';
  const byPath = new Map(
    entries.map((entry) => [
      entry.filename.startsWith(prefix) ? entry.filename.slice(prefix.length) : entry.filename,
      entry
    ])
  );
  const read = (path: string, take: (chunk: Uint8Array) => void): Promise<void> =>
    unpacked(byPath.get(path), path, take);
  return {
    paths: [...byPath].flatMap(([path, entry]) => (isLink(entry) ? [] : [path])).sort(),
    others: [...byPath].flatMap(([path, entry]) =>
      isLink(entry) ? [{ path, what: 'a symbolic link' }] : []
    ),
    sha256: async (path) => {
      const hash = newHash();
      await read(path, (chunk) => hash.update(chunk));
      return hash.digest();
    },
    size: async (path) => byPath.get(path)?.uncompressedSize ?? 0,
    text: async (path) => {
      const decoder = new TextDecoder();
      let text = '';
      await read(path, (chunk) => (text += decoder.decode(chunk, { stream: true })));
      return text + decoder.decode();
    }
  };
}

/** Archives keep what kind of file an entry is in the upper half of its attributes. */
function isLink({ externalFileAttributes = 0 }: FileEntry): boolean {
  return ((externalFileAttributes >>> 16) & 0xf000) === 0xa000;
}

async function entriesOf(archive: Blob): Promise<FileEntry[]> {
  try {
    const entries = await new ZipReader(new BlobReader(archive)).getEntries();
    return entries.filter((entry): entry is FileEntry => !entry.directory);
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    throw new PackageError('is not an archive, or is damaged');
  }
}

async function unpacked(
  entry: FileEntry | undefined,
  path: string,
  take: (chunk: Uint8Array) => void
): Promise<void> {
  try {
    await entry?.getData(new WritableStream<Uint8Array>({ write: take }));
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    throw new PackageError(`is damaged: ${path} cannot be unpacked`);
  }
}
