import type { Database } from '../database';
import { mapPages } from './owners';
import { freeArea } from './regions';

/** How much of the committed state's pages nothing uses, and how much of that holds zeros only. */
export interface FreedSpace {
  bytes: number;
  /** Bytes in stretches that hold nothing but zeros. */
  wiped: number;
  freePages: number;
}

/** Measures free blocks and free pages; space that was never used counts as neither. */
export function freedSpace(database: Database): FreedSpace {
  const uses = mapPages(database);
  const { pages } = database;
  const space: FreedSpace = { bytes: 0, wiped: 0, freePages: 0 };
  for (let number = 1; number <= pages.pageCount; number++) {
    const page = pages.page(number);
    const use = uses.get(number);
    if (!page) continue;
    const free = use.role === 'free' || use.role === 'trunk';
    if (free) space.freePages++;
    const area = freeArea(page, number, use, pages.usable);
    // A block's own header is no content.
    const spans = free
      ? area.regions
      : area.blocks.map((b) => ({ start: b.start + 4, end: b.end }));
    for (const { start, end } of spans) {
      space.bytes += end - start;
      if (page.subarray(start, end).every((byte) => byte === 0)) space.wiped += end - start;
    }
  }
  return space;
}
