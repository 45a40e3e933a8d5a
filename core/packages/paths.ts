/** Longest path that is kept; longer ones are hostile or damaged. */
const LONGEST = 4096;

/**
 * A path from inside a package, made safe: no drive, no root, no way up.
 * Returns null when nothing is left of it.
 */
export function safePath(raw: string): { path: string; changed: boolean } | null {
  // Nearly all paths are harmless, and listings are long.
  if (raw.length <= LONGEST && !/(^|\/)\.{0,2}(\/|$)|[\\\0]|^[a-z]:/i.test(raw)) {
    return raw === '' ? null : { path: raw, changed: false };
  }
  const parts = raw
    .replaceAll('\\', '/')
    .replaceAll('\0', '')
    .replace(/^[a-z]:/i, '')
    .split('/')
    .filter((part) => part !== '' && part !== '.');
  const kept = parts.filter((part) => part !== '..');
  const path = kept.join('/').slice(0, LONGEST);
  if (path === '') return null;
  return { path, changed: kept.length !== parts.length || path.length < kept.join('/').length };
}

export function baseName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

export function folderOf(path: string): string {
  const at = path.lastIndexOf('/');
  return at < 0 ? '' : path.slice(0, at + 1);
}
