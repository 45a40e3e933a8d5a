import type { ByteSource } from '../host';
import { entryBytes, zipEntries, type ZipEntry } from '../formats';
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

/**
 * A package in an archive, read by its central directory: what lies inside its
 * files, other archives for instance, is not taken for its own.
 * @throws PackageError
 */
export function packedPackage(archive: ByteSource, newHash: () => RunningHash): Package {
  const entries = entriesOf(archive);
  const mark = entries.find(({ name }) => /(^|\/)bagit\.txt$/.test(name));
  const prefix = mark?.name.slice(0, -'bagit.txt'.length) ?? '';
  const byPath = new Map(
    entries.map((entry) => [
      entry.name.startsWith(prefix) ? entry.name.slice(prefix.length) : entry.name,
      entry
    ])
  );
  const read = (path: string, take: (chunk: Uint8Array) => void): Promise<void> =>
    unpacked(archive, byPath.get(path), path, take);
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
    size: async (path) => byPath.get(path)?.size ?? 0,
    text: async (path) => {
      const decoder = new TextDecoder();
      let text = '';
      await read(path, (chunk) => (text += decoder.decode(chunk, { stream: true })));
      return text + decoder.decode();
    }
  };
}

/** Archives keep what kind of file an entry is in the upper half of its attributes. */
function isLink({ attributes }: ZipEntry): boolean {
  return ((attributes >>> 16) & 0xf000) === 0xa000;
}

function entriesOf(archive: ByteSource): ZipEntry[] {
  try {
    return zipEntries(archive);
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    throw new PackageError('is not an archive, or is damaged');
  }
}

/** Unpacked bytes after which others get their turn. */
const REST = 1 << 24;

async function unpacked(
  archive: ByteSource,
  entry: ZipEntry | undefined,
  path: string,
  take: (chunk: Uint8Array) => void
): Promise<void> {
  if (!entry) return;
  let sinceRest = 0;
  try {
    for (const chunk of entryBytes(archive, entry)) {
      take(chunk);
      sinceRest += chunk.length;
      if (sinceRest < REST) continue;
      sinceRest = 0;
      await new Promise((resolve) => setTimeout(resolve));
    }
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    throw new PackageError(`is damaged: ${path} cannot be unpacked`);
  }
}
