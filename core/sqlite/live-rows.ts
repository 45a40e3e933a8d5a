import { cellsOf, holdsRecords, type VisitedPage } from './btree';
import type { Database, LiveRow } from './database';
import { hashBytes } from './hash';
import type { Cell } from './page';
import type { TableSchema } from './schema';

/** The live rows of a table: a list, or for large tables rows that are read again whenever they are asked for. */
export interface LiveRows extends Iterable<LiveRow> {
  readonly length: number;
}

/** What tells one live row from others, without its values. */
export interface LivePlace {
  rowid: number | bigint | null;
  hash: number;
  page: number;
  /** In the file that holds the page. */
  offset: number;
}

/** Tables with more rows than this are not held in memory. */
const MOST_HELD = 50_000;
/** Of a table that is not held, every so many rows stay as a sample. */
const SAMPLED = 40;
const ROWS_A_STEP = 4096;

/** Rows of a large table: their places in typed arrays, their values read anew each time. */
class RereadRows implements LiveRows {
  readonly sample: LiveRow[] = [];
  length = 0;
  private rowids = new Float64Array(MOST_HELD * 2);
  private hashes = new Float64Array(MOST_HELD * 2);
  private pages = new Uint32Array(MOST_HELD * 2);
  private offsets = new Float64Array(MOST_HELD * 2);
  private ordered: boolean | null = null;
  private sorted: Float64Array | null = null;

  constructor(
    private readonly database: Database,
    private readonly table: TableSchema
  ) {}

  add(rowid: number, hash: number, page: number, offset: number): void {
    if (this.length === this.rowids.length) this.grow();
    const at = this.length++;
    this.rowids[at] = rowid;
    this.hashes[at] = hash;
    this.pages[at] = page;
    this.offsets[at] = offset;
  }

  private grow(): void {
    const size = this.length * 2;
    const grown = <T extends Float64Array | Uint32Array>(old: T, into: T): T => {
      into.set(old);
      return into;
    };
    this.rowids = grown(this.rowids, new Float64Array(size));
    this.hashes = grown(this.hashes, new Float64Array(size));
    this.pages = grown(this.pages, new Uint32Array(size));
    this.offsets = grown(this.offsets, new Float64Array(size));
  }

  /** The hash of the row with this number; row numbers rise along a tree, unless damage put it together of several. */
  hashOf(rowid: number): number | undefined {
    const at = this.inOrder ? firstFrom(this.rowids, this.length, rowid) : this.indexOf(rowid);
    return this.rowids[at] === rowid && at < this.length ? this.hashes[at] : undefined;
  }

  private indexOf(rowid: number): number {
    const at = this.rowids.subarray(0, this.length).indexOf(rowid);
    return at < 0 ? this.length : at;
  }

  private get inOrder(): boolean {
    this.ordered ??= this.rowids.subarray(1, this.length).every((n, i) => n > this.rowids[i]!);
    return this.ordered;
  }

  hasHash(hash: number): boolean {
    this.sorted ??= this.hashes.slice(0, this.length).sort();
    return this.sorted[firstFrom(this.sorted, this.length, hash)] === hash;
  }

  [Symbol.iterator](): Iterator<LiveRow> {
    return this.database.rows(this.table);
  }

  *places(): Generator<LivePlace> {
    const place: LivePlace = { rowid: 0, hash: 0, page: 0, offset: 0 };
    for (let i = 0; i < this.length; i++) {
      place.rowid = this.rowids[i]!;
      place.hash = this.hashes[i]!;
      place.page = this.pages[i]!;
      place.offset = this.offsets[i]!;
      yield place;
    }
  }
}

function firstFrom(sorted: Float64Array, length: number, value: number): number {
  let low = 0;
  let high = length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle]! < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Finds live rows by number and by hash, to tell copies of them. */
export interface LiveIndex {
  hashOf(rowid: number | bigint): number | undefined;
  hasHash(hash: number): boolean;
}

export function indexOf(rows: LiveRows): LiveIndex {
  if (rows instanceof RereadRows) {
    return {
      hashOf: (rowid) => (typeof rowid === 'number' ? rows.hashOf(rowid) : undefined),
      hasHash: (hash) => rows.hasHash(hash)
    };
  }
  const byRowid = new Map<number | bigint, number>();
  const hashes = new Set<number>();
  for (const { hash, rowid } of rows) {
    hashes.add(hash);
    if (rowid !== null) byRowid.set(rowid, hash);
  }
  return { hashOf: (rowid) => byRowid.get(rowid), hasHash: (hash) => hashes.has(hash) };
}

/** Places of all rows, in the order of the tree. The object that is yielded may be used again for the next. */
export function placesOf(rows: LiveRows): Iterable<LivePlace> {
  return rows instanceof RereadRows ? rows.places() : rows;
}

/** Rows that show what the table holds: all of a small one, an even choice of a large one. */
export function sampleOf(rows: LiveRows): Iterable<LiveRow> {
  return rows instanceof RereadRows ? rows.sample : rows;
}

/** Whether the rows are too many to be held. */
export function isReread(rows: LiveRows): boolean {
  return rows instanceof RereadRows;
}

/** Reads the live rows of a table; yields the number of rows so far. Row numbers past 2^53 keep a table in memory. */
export function* readLiveRows(
  database: Database,
  table: TableSchema,
  mostHeld = MOST_HELD
): Generator<number, LiveRows> {
  const held: LiveRow[] = [];
  let large: RereadRows | null = null;
  let count = 0;
  const canReread = !table.declaration.withoutRowid;
  for (const [page, cell] of liveCells(database, table)) {
    if (++count % ROWS_A_STEP === 0) yield count;
    if (large && typeof cell.rowid === 'number') {
      addPlace(large, database, page, cell);
      if (count % SAMPLED === 0) large.sample.push(database.liveRow(table, page, cell));
      continue;
    }
    held.push(database.liveRow(table, page, cell));
    if (canReread && held.length > mostHeld && !large) large = overflowing(database, table, held);
  }
  return large ?? held;
}

/** Turns a list that became too long into places. */
function overflowing(database: Database, table: TableSchema, held: LiveRow[]): RereadRows | null {
  if (held.some(({ rowid }) => typeof rowid !== 'number')) return null;
  const rows = new RereadRows(database, table);
  for (const { rowid, hash, page, offset } of held) rows.add(rowid as number, hash, page, offset);
  rows.sample.push(...held.filter((_, i) => i < held.length / 10 || i % SAMPLED === 0));
  held.length = 0;
  return rows;
}

function addPlace(rows: RereadRows, database: Database, page: VisitedPage, cell: Cell): void {
  const { offset } = database.pages.place(page.number);
  const hash = hashBytes(database.payload(page.bytes, cell));
  rows.add(Number(cell.rowid), hash, page.number, offset + cell.start);
}

function* liveCells(database: Database, table: TableSchema): Generator<[VisitedPage, Cell]> {
  const report = database.report;
  for (const page of database.walk(table)) {
    if (!holdsRecords(page.header.kind)) continue;
    for (const cell of cellsOf(page, database.pages, report)) yield [page, cell];
  }
}
