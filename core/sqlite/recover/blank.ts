import type { Region } from './candidate';

/** Offset of the first byte of a stretch that is not zero, or its end. */
export function firstFilled(page: Uint8Array, { start, end }: Region): number {
  let at = start;
  while (at < end && page[at] === 0) at++;
  return at;
}

export function isBlank(page: Uint8Array, start: number, end: number): boolean {
  return firstFilled(page, { start, end }) >= end;
}
