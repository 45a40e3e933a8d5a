import { readVarint, readVarintSigned, u16be, u32be, type Varint } from '../../host';
import { holdsRecords, MAX_DEPTH, type VisitedPage } from '../format/btree';
import type { Database } from './database';
import type { LeafCells } from '../format/leaf-cells';
import { readPageHeader, TABLE_INTERIOR, TABLE_LEAF } from '../format/page';
import type { PageSet } from '../format/pages';

/** Takes a leaf, and the first and last row number that it can hold. */
export type LeafVisitor = (page: number, from: number, to: number) => void;

/**
 * Goes over the leaves of a table's tree in their order without reading them:
 * the interior pages above name them and bound their row numbers (file format,
 * section 1.6). Returns those interior pages; null when one of them could not
 * be read or was there before, so that leaves are missing.
 */
export function walkLeaves(
  pages: PageSet,
  root: number,
  stretch: { from: number; to: number },
  leaf: LeafVisitor
): ReadonlySet<number> | null {
  const inner = new Set<number>();
  let isWhole = true;
  let areLeaves = false;
  const visit = (number: number, first: number, to: number, depth: number): void => {
    // All leaves are equally deep: one of them tells what the pages beside it are.
    if (areLeaves) return leaf(number, first, to);
    const isNew = !inner.has(number) && pages.inRange(number) && depth <= MAX_DEPTH;
    const page = isNew ? pages.single(number) : null;
    const header = page && readPageHeader(page, number);
    if (header?.kind === TABLE_LEAF) {
      areLeaves = true;
      return leaf(number, first, to);
    }
    isWhole &&= header?.kind === TABLE_INTERIOR;
    if (!page || header?.kind !== TABLE_INTERIOR) return;
    inner.add(number);
    let from = first;
    for (let i = 0; i < header.cellCount; i++) {
      const at = u16be(page, header.pointers + 2 * i);
      const key = keyAt(page, at, pages.usable);
      isWhole &&= key !== null;
      if (key === null) return;
      visit(u32be(page, at), from, key, depth + 1);
      from = key + 1;
    }
    visit(header.rightChild, from, to, depth + 1);
    areLeaves = false;
  };
  visit(root, stretch.from, stretch.to, 0);
  return isWhole ? inner : null;
}

const scratch: Varint = { value: 0, size: 0 };

/** The row number in a cell of an interior page; null where it lies off the page, or is none that can be told exactly. */
function keyAt(page: Uint8Array, at: number, usable: number): number | null {
  if (at + 4 > usable) return null;
  const { value, size } = readVarint(page, at + 4, usable, scratch);
  if (size > 0 && size < 8) return value;
  const long = readVarintSigned(page, at + 4, usable);
  return size === 0 || typeof long.value !== 'number' ? null : long.value;
}

/** A page as a leaf of a tree; null when it is none. */
export function leafAt({ pages }: Database, number: number): VisitedPage | null {
  return asLeaf(number, pages.page(number));
}

/** The same for leaves far apart. */
export function singleLeafAt({ pages }: Database, number: number): VisitedPage | null {
  return asLeaf(number, pages.single(number));
}

/** The same, to stand only until the next one is asked for. */
export function passingLeafAt({ pages }: Database, number: number): VisitedPage | null {
  return asLeaf(number, pages.passing(number));
}

function asLeaf(number: number, bytes: Uint8Array | null): VisitedPage | null {
  const header = bytes && readPageHeader(bytes, number);
  return header && holdsRecords(header.kind) ? { number, bytes, header } : null;
}

/** Reads a table leaf whose cells are all in order; false for other pages. */
export function readLeaf(cells: LeafCells, { pages }: Database, page: VisitedPage): boolean {
  const { header, bytes, number } = page;
  const limit = Math.min(pages.usable, pages.end(number));
  return header.kind === TABLE_LEAF && cells.read(bytes, header, pages.usable, limit);
}
