import type { Database } from '../read/database';
import { mapPagesInSteps, type PageUses } from '../recover/owners';
import { freeArea } from '../recover/regions';
import { INDEX_INTERIOR, INDEX_LEAF, TABLE_INTERIOR, TABLE_LEAF } from '../format/page';

/** What a page is used for, as the page map shows it. */
export const PAGE_KINDS = [
  'unknown',
  'table leaf',
  'table interior',
  'index leaf',
  'index interior',
  'overflow',
  'free',
  'free-list trunk',
  'pointer map',
  'lock'
] as const;
export type PageKind = (typeof PAGE_KINDS)[number];

/** The use of every page, and how much of the file nothing uses. */
export interface PageMap {
  /** For page n, at index n - 1, the place of its kind in {@link PAGE_KINDS}. */
  kinds: Uint8Array;
  space: FreedTotals;
}

/** Space that no live structure uses, in bytes. */
export interface FreedTotals {
  blocks: number;
  blockBytes: number;
  blockPages: number;
  /** Between the cell pointers and the cells of pages in use. */
  unallocatedBytes: number;
  freePages: number;
  trunks: number;
}

const STEP = 256;

/** Finds out the kind of every page; yields pages done and in all. */
export function* pageMap(
  database: Database
): Generator<{ done: number; total: number }, { map: PageMap; uses: PageUses }> {
  const { pages } = database;
  const total = pages.pageCount * 2;
  const work = mapPagesInSteps(database);
  let step = work.next();
  for (let done = 0; !step.done; step = work.next()) {
    done += STEP;
    yield { done: Math.min(done, pages.pageCount), total };
  }
  const uses = step.value;
  const map: PageMap = { kinds: new Uint8Array(pages.pageCount), space: noSpace() };
  for (let number = 1; number <= pages.pageCount; number++) {
    if (number % STEP === 0) yield { done: pages.pageCount + number, total };
    const page = pages.page(number);
    const kind = page ? kindOf(page, number, uses) : 'unknown';
    map.kinds[number - 1] = PAGE_KINDS.indexOf(kind);
    if (page) addSpace(map.space, page, number, uses, pages.usable);
  }
  return { map, uses };
}

function kindOf(page: Uint8Array, number: number, uses: PageUses): PageKind {
  const { role } = uses.get(number);
  switch (role) {
    case 'tree':
      return treeKind(page[number === 1 ? 100 : 0]!);
    case 'overflow':
    case 'free':
    case 'unknown':
    case 'lock':
      return role;
    case 'trunk':
      return 'free-list trunk';
    case 'map':
      return 'pointer map';
  }
}

function treeKind(first: number): PageKind {
  if (first === TABLE_LEAF) return 'table leaf';
  if (first === TABLE_INTERIOR) return 'table interior';
  if (first === INDEX_LEAF) return 'index leaf';
  return first === INDEX_INTERIOR ? 'index interior' : 'unknown';
}

function noSpace(): FreedTotals {
  return {
    blocks: 0,
    blockBytes: 0,
    blockPages: 0,
    unallocatedBytes: 0,
    freePages: 0,
    trunks: 0
  };
}

function addSpace(
  space: FreedTotals,
  page: Uint8Array,
  number: number,
  uses: PageUses,
  usable: number
): void {
  const use = uses.get(number);
  if (use.role === 'free' || use.role === 'trunk') space.freePages++;
  if (use.role === 'trunk') space.trunks++;
  if (use.role !== 'tree') return;
  const { blocks, regions } = freeArea(page, number, use, usable);
  const inBlocks = blocks.reduce((sum, { start, end }) => sum + end - start, 0);
  space.blocks += blocks.length;
  space.blockBytes += inBlocks;
  if (blocks.length > 0) space.blockPages++;
  const all = regions.reduce((sum, { start, end }) => sum + end - start, 0);
  space.unallocatedBytes += Math.max(0, all - inBlocks);
}
