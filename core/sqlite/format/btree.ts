import { u16be, u32be } from '../../host';
import type { Damage } from './errors';
import {
  INDEX_INTERIOR,
  INDEX_LEAF,
  readCell,
  readPageHeader,
  TABLE_INTERIOR,
  TABLE_LEAF,
  type Cell,
  type PageHeader
} from './page';
import type { PageSet } from './pages';

export interface VisitedPage {
  number: number;
  bytes: Uint8Array;
  header: PageHeader;
}

/** Gives the bytes of a page; null when it is not there. */
export type PageReader = (number: number) => Uint8Array | null;

/** Levels of a tree; no sound one has as many. */
export const MAX_DEPTH = 24;

/**
 * Visits every page of a b-tree in key order: for table trees interior pages
 * before their children, for index trees likewise. A page seen twice, out of
 * range or of the wrong kind is reported and left out. A page that `read` gives
 * need stand only until the next one is asked for.
 */
export function* walkTree(
  pages: PageSet,
  root: number,
  report: (damage: Damage) => void,
  read: PageReader = (number) => pages.page(number)
): Generator<VisitedPage> {
  const walk: Walk = { pages, read, seen: new Set(), report };
  const first = open(walk, root, 0, null);
  if (!first) return;
  yield first;
  // A stack instead of generators that call themselves, for which trees have too many pages.
  const kind = treeOf(first.header.kind);
  const left = [children(first)];
  while (left.length > 0) {
    const next = left.at(-1)!.pop();
    const page = next === undefined ? null : open(walk, next, left.length, kind);
    if (next === undefined) left.pop();
    if (!page) continue;
    yield page;
    const below = children(page);
    if (below.length > 0) left.push(below);
  }
}

interface Walk {
  pages: PageSet;
  read: PageReader;
  seen: Set<number>;
  report: (damage: Damage) => void;
}

type TreeKind = 'table' | 'index';

/** A page that is reached for the first time and belongs to a tree of that kind, or of any with null. */
function open(
  { pages, read, seen, report }: Walk,
  number: number,
  depth: number,
  tree: TreeKind | null
): VisitedPage | null {
  if (!pages.inRange(number) || depth > MAX_DEPTH || seen.has(number)) {
    const reason = seen.has(number) ? 'page is reached twice' : 'page number out of range';
    report(damageAt(pages, number, reason));
    return null;
  }
  seen.add(number);
  const bytes = read(number);
  const header = bytes && readPageHeader(bytes, number);
  if (!bytes || !header) {
    report(damageAt(pages, number, bytes ? 'no b-tree page' : 'page is not in the file'));
    return null;
  }
  const kind = treeOf(header.kind);
  if (tree !== null && kind !== tree) {
    report(damageAt(pages, number, `a page of an ${kind} tree in a ${tree} tree`));
    return null;
  }
  return { number, bytes, header };
}

function treeOf(kind: number): TreeKind {
  return kind === TABLE_LEAF || kind === TABLE_INTERIOR ? 'table' : 'index';
}

const NO_CHILDREN: number[] = [];

/** Child page numbers from right to left. */
function children({ header, bytes }: VisitedPage): number[] {
  if (header.kind !== TABLE_INTERIOR && header.kind !== INDEX_INTERIOR) return NO_CHILDREN;
  const out = [header.rightChild];
  for (let i = header.cellCount - 1; i >= 0; i--) {
    const at = u16be(bytes, header.pointers + 2 * i);
    if (at + 4 <= bytes.length) out.push(u32be(bytes, at));
  }
  return out;
}

/** The page's cells in pointer order; those that do not fit are reported. */
export function cellsOf(
  page: VisitedPage,
  pages: PageSet,
  report: (damage: Damage) => void
): Cell[] {
  const { header, bytes, number } = page;
  const cells: Cell[] = [];
  const limit = Math.min(pages.usable, pages.end(number));
  for (let i = 0; i < header.cellCount; i++) {
    const at = u16be(bytes, header.pointers + 2 * i);
    const cell = at < header.pointers ? null : readCell(bytes, header.kind, at, pages.usable);
    if (cell && cell.end <= limit) cells.push(cell);
    else report(damageAt(pages, number, `cell ${i} does not fit its page`, at));
  }
  return cells;
}

export function holdsRecords(kind: number): boolean {
  return kind === TABLE_LEAF || kind === INDEX_LEAF || kind === INDEX_INTERIOR;
}

function damageAt(pages: PageSet, page: number, reason: string, at = 0): Damage {
  const place = pages.place(Math.max(page, 1));
  return {
    file: place.source.name,
    page,
    offset: place.offset + at,
    structure: at > 0 ? 'cell' : 'page',
    reason
  };
}
