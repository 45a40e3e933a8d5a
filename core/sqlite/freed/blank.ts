/** Wiped space is common and quick to tell. */
export function isBlank(page: Uint8Array, start: number, end: number): boolean {
  for (let at = start; at < end; at++) if (page[at] !== 0) return false;
  return true;
}
