import { readVarint, readVarintSigned, u16be } from '../../host';
import type { Database } from '../read/database';
import { walkLeaves } from '../read/leaves';
import { isReread, placesOf, type LiveRows } from '../read/live-rows';
import { readPageHeader, TABLE_LEAF } from '../format/page';
import { firstFrom } from '../read/reread-rows';
import type { TableSchema } from '../format/schema';
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
  const nameless = new NamelessRows(freed);
  if (nameless.isEmpty) return;
  const taken = [new RisingNumbers(numbersOf(live)), new RisingNumbers(freedNumbers(freed))];
  const shuffled = shuffledPages(live);
  const stretch = { from: 1, to: lastNumber(database, table, live) };
  walkLeaves(database.pages, table.root, stretch, (page, from, to) => {
    const rows = nameless.take(page);
    if (rows.length === 0 || shuffled.has(page)) return;
    const missing = missingNumbers(from, to, taken, rows.length);
    const found =
      missing?.length === rows.length
        ? rows.map((row, i): [number, number] => [row, missing[i]!])
        : numbersBetween(cellsOf(database, page), rows, freed, taken, { from, to });
    for (const [row, number] of found) give(freed, table, row, number);
  });
}

/** A cell of a page: where it lies in its file, and its row number. */
interface Cell {
  offset: number;
  number: number;
}

/** Cells of a leaf page from its end on; none where one of them cannot be told. */
function cellsOf({ pages }: Database, number: number): Cell[] {
  const page = pages.single(number);
  const header = page && readPageHeader(page, number);
  if (!page || header?.kind !== TABLE_LEAF) return [];
  const cells: Cell[] = [];
  const start = pages.place(number).offset;
  for (let i = 0; i < header.cellCount; i++) {
    const offset = u16be(page, header.pointers + 2 * i);
    const { size } = readVarint(page, offset, page.length, { value: 0, size: 0 });
    const rowid = readVarintSigned(page, offset + size, page.length);
    if (size === 0 || rowid.size === 0 || typeof rowid.value !== 'number') return [];
    cells.push({ offset: start + offset, number: rowid.value });
  }
  return cells.sort((a, b) => b.offset - a.offset);
}

/**
 * Where a page lacks more numbers than rows, because others of them were
 * never given or are lost: rows between two cells that are still there have
 * the numbers between those of the cells, if these are as many.
 */
function numbersBetween(
  cells: readonly Cell[],
  rows: readonly number[],
  freed: FreedRows,
  taken: RisingNumbers[],
  { from, to }: { from: number; to: number }
): [row: number, number: number][] {
  const found: [number, number][] = [];
  let at = 0;
  let below = from - 1;
  for (const { offset, number } of [...cells, { offset: -1, number: to + 1 }]) {
    const between: number[] = [];
    for (; at < rows.length && offsetOf(freed, rows[at]!) > offset; at++) between.push(rows[at]!);
    const missing =
      between.length > 0 ? missingNumbers(below + 1, number - 1, taken, between.length) : null;
    if (missing?.length === between.length)
      found.push(...between.map((row, i): [number, number] => [row, missing[i]!]));
    below = number;
  }
  return found;
}

/** Rows without a number by their page: places among the complete rows, and behind them among those that are cut. */
class NamelessRows {
  /** The last row of each page. */
  private readonly heads = new Map<number, number>();
  /** The row before on the same page; -1 for none. */
  private readonly next: Int32Array;

  constructor(private readonly freed: FreedRows) {
    const { whole, indexes, cut } = freed;
    this.next = new Int32Array(whole.count + cut.length);
    for (const at of indexes)
      if (whole.number(at) === null && isInTree(whole.methodOf(at)))
        this.add(whole.columns.page[at]!, at);
    for (const [i, { rowid, proofs }] of cut.entries())
      if (rowid === null && isInTree(proofs[0]!.method)) this.add(proofs[0]!.page, whole.count + i);
  }

  get isEmpty(): boolean {
    return this.heads.size === 0;
  }

  private add(page: number, row: number): void {
    this.next[row] = this.heads.get(page) ?? -1;
    this.heads.set(page, row);
  }

  /** The rows of a page from its end on, once: a damaged tree may lead there twice. */
  take(page: number): number[] {
    const rows: number[] = [];
    const head = this.heads.get(page) ?? -1;
    let isFalling = true;
    for (let row = head, last = Infinity; row >= 0; row = this.next[row]!) {
      const offset = offsetOf(this.freed, row);
      isFalling &&= offset <= last;
      last = offset;
      rows.push(row);
    }
    if (head >= 0) this.heads.delete(page);
    // They were mostly found from the beginning on.
    if (isFalling) return rows;
    return rows.sort((a, b) => offsetOf(this.freed, b) - offsetOf(this.freed, a));
  }
}

function offsetOf({ whole, cut }: FreedRows, row: number): number {
  return row < whole.count ? whole.columns.offset[row]! : cut[row - whole.count]!.proofs[0]!.offset;
}

function give({ whole, cut }: FreedRows, table: TableSchema, row: number, rowid: number): void {
  if (row >= whole.count) {
    const part = cut[row - whole.count]!;
    setNumber(part, table, rowid);
    part.inferred = true;
    return;
  }
  whole.columns.rowid[row] = rowid;
  whole.columns.inferred[row] = 1;
}

function isInTree(method: RowProof['method']): boolean {
  return method === 'free-block' || method === 'unallocated';
}

/** Numbers in rising order, which are asked for one stretch after the other. */
class RisingNumbers {
  private at = 0;

  constructor(private readonly numbers: Float64Array) {}

  /** Turns to the first number that is not below; mostly that is where the last stretch ended. */
  seek(from: number): void {
    const { numbers, at } = this;
    const isHere =
      (at === 0 || numbers[at - 1]! < from) && (at === numbers.length || numbers[at]! >= from);
    if (!isHere) this.at = firstFrom(numbers, numbers.length, from);
  }

  /** Whether a number is one of them; those of a stretch come in rising order. */
  passes(number: number): boolean {
    const { numbers } = this;
    while (this.at < numbers.length && numbers[this.at]! < number) this.at++;
    return this.at < numbers.length && numbers[this.at] === number;
  }
}

function numbersOf(live: LiveRows): Float64Array {
  if (isReread(live)) return rising(live.numbers());
  const numbers: number[] = [];
  for (const { rowid } of placesOf(live)) if (typeof rowid === 'number') numbers.push(rowid);
  return rising(Float64Array.from(numbers));
}

function freedNumbers({ whole, indexes, cut }: FreedRows): Float64Array {
  const numbers: number[] = [];
  for (const at of indexes) {
    const number = whole.columns.rowid[at]!;
    if (!Number.isNaN(number)) numbers.push(number);
  }
  for (const { rowid } of cut) if (typeof rowid === 'number') numbers.push(rowid);
  return rising(Float64Array.from(numbers));
}

/** The numbers as they are where they rise, as those of a sound tree do. */
function rising(numbers: Float64Array): Float64Array {
  for (let i = 1; i < numbers.length; i++)
    if (numbers[i]! < numbers[i - 1]!) return numbers.slice().sort();
  return numbers;
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

/** Numbers of a stretch that nothing has; null as soon as there are more than `most`. */
function missingNumbers(
  from: number,
  to: number,
  [live, freed]: RisingNumbers[],
  most: number
): number[] | null {
  const missing: number[] = [];
  live!.seek(from);
  freed!.seek(from);
  for (let number = from; number <= to; number++) {
    if (live!.passes(number) || freed!.passes(number)) continue;
    missing.push(number);
    if (missing.length > most) return null;
  }
  return missing;
}
