import { u16be, u32be } from '../../bytes';
import type { Database } from '../database';
import { indexOf, isReread, placesOf, type LiveRows } from '../live-rows';
import { readCell, readPageHeader, TABLE_INTERIOR, TABLE_LEAF } from '../page';
import type { TableSchema } from '../schema';
import type { FreedRows } from './freed-rows';
import { setNumber, type RowProof } from './row';

/**
 * Works out lost row numbers. A leaf page holds one stretch of row numbers,
 * and pages that are only appended to hold their cells from the end towards
 * the front. Where the numbers missing from a page's stretch are as many as
 * the rows recovered there without a number, they belong to each other.
 */
export function inferRowNumbers(
  database: Database,
  table: TableSchema,
  live: LiveRows,
  freed: FreedRows
): void {
  if (table.root === 0 || table.declaration.withoutRowid) return;
  const nameless = namelessByPage(freed);
  if (nameless.size === 0) return;
  const taken = takenNumbers(live, freed);
  const stretches = leafStretches(database, table, lastNumber(database, table, live));
  const shuffled = shuffledPages(live);
  for (const [page, rows] of nameless) {
    const stretch = stretches.get(page);
    if (!stretch || shuffled.has(page)) continue;
    const missing = missingNumbers(stretch, taken, rows.length);
    if (missing?.length !== rows.length) continue;
    rows.sort((a, b) => offsetOf(freed, b) - offsetOf(freed, a));
    rows.forEach((row, i) => give(freed, table, row, missing[i]!));
  }
}

/** Rows without a number by their page: places among the complete rows, or -1 and less for those that are cut. */
function namelessByPage({ whole, indexes, cut }: FreedRows): Map<number, number[]> {
  const found = new Map<number, number[]>();
  const add = (page: number, row: number): void => {
    const list = found.get(page);
    if (list) list.push(row);
    else found.set(page, [row]);
  };
  for (const at of indexes)
    if (whole.number(at) === null && isInTree(whole.methodOf(at))) add(whole.columns.page[at]!, at);
  for (const [i, { rowid, proofs }] of cut.entries())
    if (rowid === null && isInTree(proofs[0]!.method)) add(proofs[0]!.page, -1 - i);
  return found;
}

function offsetOf({ whole, cut }: FreedRows, row: number): number {
  return row < 0 ? cut[-1 - row]!.proofs[0]!.offset : whole.columns.offset[row]!;
}

function give({ whole, cut }: FreedRows, table: TableSchema, row: number, rowid: number): void {
  if (row < 0) {
    setNumber(cut[-1 - row]!, table, rowid);
    cut[-1 - row]!.inferred = true;
    return;
  }
  whole.columns.rowid[row] = rowid;
  whole.columns.inferred[row] = 1;
}

function isInTree(method: RowProof['method']): boolean {
  return method === 'free-block' || method === 'unallocated';
}

interface Stretch {
  /** First and last row number that the page can hold. */
  from: number;
  to: number;
}

/** Tells which row numbers some row has. */
interface Taken {
  has(number: number): boolean;
}

function takenNumbers(live: LiveRows, { whole, indexes, cut }: FreedRows): Taken {
  const known = indexOf(live);
  const taken = new Set<number>();
  for (const at of indexes) {
    const number = whole.columns.rowid[at]!;
    if (!Number.isNaN(number)) taken.add(number);
  }
  for (const { rowid } of cut) if (typeof rowid === 'number') taken.add(rowid);
  return { has: (number) => known.has(number) || taken.has(number) };
}

/** What `sqlite_sequence` says of a table that counts (AUTOINCREMENT); null for others. */
export function sequenceOf(database: Database, table: TableSchema): number | null {
  const sequences = database.table('sqlite_sequence');
  if (!sequences || !table.declaration.autoIncrement) return null;
  for (const { values } of database.rows(sequences)) {
    if (values[0] === table.name && typeof values[1] === 'number') return values[1];
  }
  return null;
}

/** The highest number ever given: AUTOINCREMENT tables keep it; elsewhere the highest live one bounds what is sure. */
function lastNumber(database: Database, table: TableSchema, live: LiveRows): number {
  const counted = sequenceOf(database, table);
  if (counted !== null) return counted;
  if (isReread(live)) return live.last;
  let last = 0;
  for (const { rowid } of placesOf(live))
    if (typeof rowid === 'number' && rowid > last) last = rowid;
  return last;
}

/** Which row numbers each leaf can hold, from the keys of the interior pages above it. */
function leafStretches(database: Database, table: TableSchema, last: number): Map<number, Stretch> {
  const { pages } = database;
  const found = new Map<number, Stretch>();
  const seen = new Set<number>();
  let areLeaves = false;
  const visit = (number: number, stretch: Stretch): void => {
    // All leaves are equally deep: one of them tells what the pages beside it are.
    if (areLeaves) return void found.set(number, stretch);
    const page = seen.has(number) || !pages.inRange(number) ? null : pages.page(number);
    const header = page && readPageHeader(page, number);
    if (!page || !header) return;
    seen.add(number);
    if (header.kind === TABLE_LEAF) {
      found.set(number, stretch);
      areLeaves = true;
    }
    if (header.kind !== TABLE_INTERIOR) return;
    let from = stretch.from;
    for (let i = 0; i < header.cellCount; i++) {
      const at = u16be(page, header.pointers + 2 * i);
      const cell = readCell(page, header.kind, at, pages.usable);
      if (!cell || typeof cell.rowid !== 'number') return;
      visit(u32be(page, at), { from, to: cell.rowid });
      from = cell.rowid + 1;
    }
    visit(header.rightChild, { from, to: stretch.to });
    areLeaves = false;
  };
  visit(table.root, { from: 1, to: last });
  return found;
}

/**
 * Pages whose cells do not lie in the order in which rows are appended: the
 * higher the number, the lower the offset. Rows come in the order of the tree.
 */
function shuffledPages(live: LiveRows): Set<number> {
  if (isReread(live)) return live.shuffled();
  const shuffled = new Set<number>();
  let page = 0;
  let offset = Infinity;
  for (const row of placesOf(live)) {
    if (row.page === page && row.offset > offset) shuffled.add(page);
    page = row.page;
    offset = row.offset;
  }
  return shuffled;
}

/** Numbers of the stretch that nothing has; null as soon as there are more than `most`. */
function missingNumbers({ from, to }: Stretch, taken: Taken, most: number): number[] | null {
  const missing: number[] = [];
  for (let number = from; number <= to; number++) {
    if (taken.has(number)) continue;
    missing.push(number);
    if (missing.length > most) return null;
  }
  return missing;
}
