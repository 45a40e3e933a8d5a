import type { RunningHash } from './packed';
import type { Package } from './verify';

/** Bytes that are read and hashed at once. */
const STEP = 1 << 22;

/** A package whose files lie by themselves, as in a folder; paths are taken from where `bagit.txt` lies. */
export function loosePackage(
  files: readonly { path: string; blob: Blob }[],
  newHash: () => RunningHash
): Package {
  const mark = files.find(({ path }) => /(^|\/)bagit\.txt$/.test(path));
  const prefix = mark?.path.slice(0, -'bagit.txt'.length) ?? '';
  const inside = files.filter(({ path }) => path.startsWith(prefix));
  const byPath = new Map(inside.map(({ path, blob }) => [path.slice(prefix.length), blob]));
  return {
    paths: [...byPath.keys()].sort(),
    sha256: async (path) => {
      const hash = newHash();
      const blob = byPath.get(path) ?? new Blob();
      for (let at = 0; at < blob.size; at += STEP)
        hash.update(new Uint8Array(await blob.slice(at, at + STEP).arrayBuffer()));
      return hash.digest();
    },
    size: async (path) => byPath.get(path)?.size ?? 0,
    text: async (path) => (await byPath.get(path)?.text()) ?? ''
  };
}
