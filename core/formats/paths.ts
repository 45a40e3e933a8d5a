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
  const parts = raw.replaceAll('\\', '/').replaceAll('\0', '').split('/');
  let kept = parts.filter(isName);
  while (/^[a-z]:/i.test(kept[0] ?? ''))
    kept = [kept[0]!.slice(2), ...kept.slice(1)].filter(isName);
  const whole = kept.join('/');
  const path = whole.slice(0, LONGEST);
  return path === '' ? null : { path, changed: parts.includes('..') || path.length < whole.length };
}

function isName(part: string): boolean {
  return part !== '' && part !== '.' && part !== '..';
}

export function baseName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

export function folderOf(path: string): string {
  const at = path.lastIndexOf('/');
  return at < 0 ? '' : path.slice(0, at + 1);
}
