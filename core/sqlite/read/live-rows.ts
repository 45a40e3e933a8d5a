import { cellsOf, holdsRecords, type VisitedPage } from '../format/btree';
import type { Database, LiveRow } from './database';
import { sketchRange } from '../format/hash';
import { LeafCells } from '../format/leaf-cells';
import { readColumns, type Damaged, type LeafColumns, type LeafReader } from './leaf-columns';
import { leafAt, readLeaf, walkLeaves } from './leaves';
import { readCell, TABLE_LEAF, type Cell } from '../format/page';
import {
  RereadRows,
  type FreedRecord,
  type LargeRows,
  type LivePlace,
  type LiveRows
} from './reread-rows';
import type { TableSchema } from '../format/schema';
import { SharedWork } from './shared-work';

export type { FreedRecord, LargeRows, LivePlace, LiveRows } from './reread-rows';

/** Tables with more rows than this are not held in memory. */
const MOST_HELD = 50_000;
const ROWS_A_STEP = 4096;

/** Finds live rows, to tell copies of them. */
export interface LiveIndex {
  /** Whether a live row has this number. */
  has(rowid: number | bigint): boolean;
  /** Makes ready for records that lost their number: these are all the sketches that will be asked for. */
  expect(sketches: Float64Array): void;
  /** Whether the live row of that number, or where the number is lost any live row, has the same bytes. */
  isCopy(record: FreedRecord): boolean;
}

export function indexOf(rows: LiveRows): LiveIndex {
  if (rows instanceof RereadRows) {
    return {
      has: (rowid) => typeof rowid === 'number' && rows.has(rowid),
      expect: (sketches) => void rows.expect(sketches),
      isCopy: (record) => rows.isCopy(record)
    };
  }
  const byRowid = new Map<number | bigint, number>();
  const hashes = new Set<number>();
  for (const { hash, rowid } of rows) {
    hashes.add(hash);
    if (rowid !== null) byRowid.set(rowid, hash);
  }
  return {
    has: (rowid) => byRowid.has(rowid),
    expect: () => undefined,
    isCopy: ({ rowid, hash }) => (rowid === null ? hashes.has(hash) : byRowid.get(rowid) === hash)
  };
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
export function isReread(rows: LiveRows): rows is LargeRows {
  return rows instanceof RereadRows;
}

/** Is told of the pages of a table's tree, so that nobody has to go over them a second time. */
export interface TreeObserver {
  page(number: number): void;
  /** A chain of overflow pages, and the bytes of payload on it. */
  spill(first: number, bytes: number): void;
}

export interface LiveOptions {
  /** Tables with more rows are not held in memory. */
  mostHeld?: number | undefined;
  observer?: TreeObserver | undefined;
  /** Other threads that read leaves of a large table. */
  readers?: (() => LeafReader[]) | undefined;
}

/** Reads the live rows of a table; yields the number of rows so far. Row numbers past 2^53 keep a table in memory. */
export function* readLiveRows(
  database: Database,
  table: TableSchema,
  { mostHeld = MOST_HELD, observer, readers }: LiveOptions = {}
): Generator<number, LiveRows> {
  const shared = readers ? yield* readShared(database, table, readers, observer) : null;
  const isLarge = shared !== null && shared.length > mostHeld;
  const rows = isLarge ? shared : yield* readOneByOne(database, table, mostHeld, observer);
  if (!(rows instanceof RereadRows)) return numberedOnce(rows, database);
  // Only a damaged tree gives its numbers out of their order, and perhaps twice.
  if (!rows.inOrder) return numberedOnce([...database.rows(table)], database);
  // The first row is in the sample; the last one bounds it at the other end.
  const last = rows.at(rows.length - 1);
  if (last) rows.keep(last);
  return rows;
}

/**
 * Rows of a tree in which a page stands twice come twice as well. The second
 * row of a number loses it: it may be any row's, and no two records share an id.
 */
function numberedOnce(rows: LiveRow[], database: Database): LiveRow[] {
  const isSorted = rows.every(
    ({ rowid }, i) => rowid === null || i === 0 || rowid > (rows[i - 1]!.rowid ?? -Infinity)
  );
  if (isSorted) return rows;
  const known = new Set<number | bigint>();
  for (const row of rows) {
    if (row.rowid === null) continue;
    if (!known.has(row.rowid)) {
      known.add(row.rowid);
      continue;
    }
    database.report({
      file: row.file,
      page: row.page,
      offset: row.offset,
      structure: 'page',
      reason: 'its row numbers stand on another page too'
    });
    row.rowid = null;
  }
  return rows;
}

/** Leaves below which one thread reads a table; and those of one part. */
const LEAST_SHARED = 1024;
const LEAVES_A_PART = 512;

/** Reads a table beside other threads; null where it is small, or its tree is not sound. */
function* readShared(
  database: Database,
  table: TableSchema,
  readers: () => LeafReader[],
  observer: TreeObserver | undefined
): Generator<number, RereadRows | null> {
  const tree = soundTree(database, table);
  if (!tree || tree.leaves.length < LEAST_SHARED) return null;
  const { leaves } = tree;
  const partOf = (i: number): Uint32Array =>
    leaves.slice(i * LEAVES_A_PART, (i + 1) * LEAVES_A_PART);
  const doers = readers().map((reader) => (i: number) => reader.read(partOf(i)));
  const work = new SharedWork<LeafColumns | Damaged>(
    Math.ceil(leaves.length / LEAVES_A_PART),
    doers
  );
  const own = (i: number): void => void (work.found[i] ??= readColumns(database, partOf(i)));
  for (let i = work.next(); i >= 0; i = work.next()) {
    own(i);
    if (work.found.includes('damaged')) work.stop();
    yield work.found.reduce((sum, part) => sum + rowsIn(part), 0);
  }
  if (work.found.includes('damaged')) return null;
  for (let i = work.unfinished(); i >= 0; i = work.unfinished()) own(i);
  const rows = gathered(database, table, work.found);
  if (rows && observer) tellAll(observer, tree, work.found);
  return rows;
}

function rowsIn(part: Part): number {
  return part === undefined || part === 'damaged' ? 0 : part.rowids.length;
}

interface Tree {
  inner: ReadonlySet<number>;
  leaves: Uint32Array;
}

/** The pages of a table's one tree; null where it cannot be gone over by its interior pages alone. */
function soundTree(database: Database, table: TableSchema): Tree | null {
  const roots = database.rootsOf(table);
  if (roots.length !== 1 || table.declaration.withoutRowid) return null;
  const { pages } = database;
  const leaves: number[] = [];
  const seen = new Uint8Array(pages.pageCount + 1);
  let isSound = true;
  const inner = walkLeaves(pages, roots[0]!, { from: -Infinity, to: Infinity }, (number) => {
    isSound &&= pages.inRange(number) && seen[number] === 0;
    if (!isSound) return;
    seen[number] = 1;
    leaves.push(number);
  });
  return inner && isSound ? { inner, leaves: Uint32Array.from(leaves) } : null;
}

type Part = LeafColumns | Damaged | undefined;

/** All rows in the order of the tree; null where a part is not sound. */
function gathered(
  database: Database,
  table: TableSchema,
  parts: readonly Part[]
): RereadRows | null {
  const rows = new RereadRows(database, table);
  rows.reserve(parts.reduce((sum, part) => sum + rowsIn(part), 0));
  for (const part of parts) {
    if (part === undefined || part === 'damaged') return null;
    rows.append(part);
  }
  rows.sampleAll();
  return rows;
}

function tellAll(observer: TreeObserver, { inner, leaves }: Tree, parts: readonly Part[]): void {
  for (const number of inner) observer.page(number);
  for (const number of leaves) observer.page(number);
  for (const part of parts) {
    if (part === undefined || part === 'damaged') continue;
    const { spills } = part;
    for (let i = 0; i < spills.length; i += 2) observer.spill(spills[i]!, spills[i + 1]!);
  }
}

function* readOneByOne(
  database: Database,
  table: TableSchema,
  mostHeld: number,
  observer: TreeObserver | undefined
): Generator<number, LiveRow[] | RereadRows> {
  const held: LiveRow[] = [];
  let large: RereadRows | null = null;
  /** Whether a row came whose number is too large for the columns of the others. */
  let isBeyond = false;
  let count = 0;
  let told = 0;
  const canReread = !table.declaration.withoutRowid;
  const cells = new LeafCells();
  for (const page of database.pass(table)) {
    observer?.page(page.number);
    if (!holdsRecords(page.header.kind)) continue;
    if (count - told >= ROWS_A_STEP) yield (told = count);
    if (large && readLeaf(cells, database, page)) {
      addPlaces(large, database, table, page, cells);
      if (observer) tellSpills(observer, cells);
      count += cells.count;
      continue;
    }
    for (const cell of cellsOf(page, database.pages, database.report)) {
      count++;
      if (cell.overflow > 0) observer?.spill(cell.overflow, cell.payload - cell.local);
      if (large && typeof cell.rowid !== 'number') isBeyond = true;
      else if (large) addPlace(large, database, page, cell);
      else held.push(database.liveRow(table, page, cell));
    }
    if (canReread && held.length > mostHeld && !large) large = overflowing(database, table, held);
  }
  if (isBeyond) return [...database.rows(table)];
  return large ?? held;
}

function tellSpills(observer: TreeObserver, { count, overflow, payload, local }: LeafCells): void {
  for (let i = 0; i < count; i++)
    if (overflow[i] !== 0) observer.spill(overflow[i]!, payload[i]! - local[i]!);
}

function addPlaces(
  rows: RereadRows,
  database: Database,
  table: TableSchema,
  page: VisitedPage,
  cells: LeafCells
): void {
  const { offset } = database.pages.place(page.number);
  const { rowid, start, payloadStart, local, overflow } = cells;
  for (let i = 0; i < cells.count; i++) {
    const at = start[i]!;
    const isSampled = rows.samples;
    if (overflow[i] !== 0 || isSampled) {
      const cell = readCell(page.bytes, TABLE_LEAF, at, database.pages.usable)!;
      addPlace(rows, database, page, cell);
      if (isSampled) rows.keep(database.liveRow(table, page, cell));
      continue;
    }
    const from = payloadStart[i]!;
    const sketch = sketchRange(page.bytes, from, from + local[i]!);
    rows.add(rowid[i]!, sketch, page.number, offset + at);
  }
}

/** Turns a list that became too long into places. */
function overflowing(database: Database, table: TableSchema, held: LiveRow[]): RereadRows | null {
  if (held.some(({ rowid }) => typeof rowid !== 'number')) return null;
  const rows = new RereadRows(database, table);
  for (const row of held) {
    const page = leafAt(database, row.page)!;
    const start = row.offset - database.pages.place(row.page).offset;
    const cell = readCell(page.bytes, page.header.kind, start, database.pages.usable)!;
    if (rows.samples) rows.keep(row);
    addPlace(rows, database, page, cell);
  }
  held.length = 0;
  return rows;
}

function addPlace(rows: RereadRows, database: Database, page: VisitedPage, cell: Cell): void {
  const { offset } = database.pages.place(page.number);
  const payload = database.payload(page.bytes, cell);
  const sketch = sketchRange(payload, 0, payload.length);
  rows.add(Number(cell.rowid), sketch, page.number, offset + cell.start);
}
