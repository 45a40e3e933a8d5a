import { u32be } from '../../host';
import type { DatabaseHeader } from './header';
import type { PageSet } from './pages';

/** A trunk page of the free list and the pages that it names (file format, section 1.5). */
export interface Trunk {
  number: number;
  /** First byte behind its list. */
  slack: number;
  leaves: number[];
}

/** Follows the free list; a loop, or a page out of range, ends it. */
export function* trunks(pages: PageSet, header: DatabaseHeader): Generator<Trunk> {
  const seen = new Set<number>();
  let number = header.freelistTrunk;
  while (pages.inRange(number) && !seen.has(number)) {
    seen.add(number);
    const page = pages.page(number);
    if (!page) return;
    const count = Math.min(u32be(page, 4), Math.floor(pages.usable / 4) - 2);
    const leaves: number[] = [];
    for (let i = 0; i < count; i++) {
      const leaf = u32be(page, 8 + 4 * i);
      if (pages.inRange(leaf)) leaves.push(leaf);
    }
    yield { number, slack: 8 + 4 * count, leaves };
    number = u32be(page, 0);
  }
}

/** Numbers of all pages on the free list, trunks included. */
export function freePages(pages: PageSet, header: DatabaseHeader): Set<number> {
  const free = new Set<number>();
  for (const { number, leaves } of trunks(pages, header)) {
    free.add(number);
    for (const leaf of leaves) free.add(leaf);
  }
  return free;
}
