import type { CopiedFile } from './types';

/** A list of checksums as `sha256sum -c` reads it, in the order of the paths. */
export function sumsOf(files: readonly Pick<CopiedFile, 'path' | 'sha256'>[]): string {
  return [...files]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map(({ path, sha256 }) => `${sha256}  ${path}\n`)
    .join('');
}
