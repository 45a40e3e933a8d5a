import { isBlank } from './blank';
import type { PageUse } from './owners';
import type { SearchArea } from './regions';

/** How much of the committed state's pages nothing uses, and how much of that holds zeros only. */
export interface FreedSpace {
  bytes: number;
  /** Bytes in stretches that hold nothing but zeros. */
  wiped: number;
  freePages: number;
}

export function noSpace(): FreedSpace {
  return { bytes: 0, wiped: 0, freePages: 0 };
}

/** Counts free blocks and free pages of the committed state; space that was never used is neither. */
export function countSpace(
  space: FreedSpace,
  page: Uint8Array,
  { role }: PageUse,
  { regions, blocks }: SearchArea
): void {
  const free = role === 'free' || role === 'trunk';
  if (free) space.freePages++;
  for (const span of free ? regions : blocks) {
    // A block's own header is no content.
    const start = free ? span.start : span.start + 4;
    space.bytes += span.end - start;
    if (isBlank(page, start, span.end)) space.wiped += span.end - start;
  }
}

export function addSpace(into: FreedSpace, more: FreedSpace): void {
  into.bytes += more.bytes;
  into.wiped += more.wiped;
  into.freePages += more.freePages;
}
