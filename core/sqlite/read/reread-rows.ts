import { NumberIndex, type TextEncoding } from '../../host';
import { cellsOf, type VisitedPage } from '../format/btree';
import type { Database, LiveRow } from './database';
import { LeafCells } from '../format/leaf-cells';
import { leafAt, passingLeafAt, readLeaf, singleLeafAt } from './leaves';
import { readCell } from '../format/page';
import type { PagePlace } from '../format/pages';
import type { SqlValue } from '../format/record';
import { RecordCursor } from '../format/record-cursor';
import { RowColumns } from './row-columns';
import type { TableSchema } from '../format/schema';

/** The live rows of a table: a list, or for large tables rows that are read again whenever they are asked for. */
export interface LiveRows extends Iterable<LiveRow> {
  readonly length: number;
  at(index: number): LiveRow | undefined;
}

/** Where a live row lies, without its values. */
export interface LivePlace {
  rowid: number | bigint | null;
  page: number;
  /** In the file that holds the page. */
  offset: number;
}

/** A table that is read again each time, for those who go over its pages themselves. */
export interface LargeRows extends LiveRows {
  readonly encoding: TextEncoding;
  /** Page numbers of the leaves, in the order of the tree. */
  leaves(): Uint32Array;
  /** A leaf again; null when it cannot be read any more. */
  leaf(page: number): VisitedPage | null;
  /** The same, to stand only until the next one is asked for. */
  passingLeaf(page: number): VisitedPage | null;
  /** Reads all cells of a leaf; false when it has to be read row by row. */
  readLeaf(cells: LeafCells, page: VisitedPage): boolean;
  rowsOf(page: VisitedPage): LiveRow[];
  /** The row whose cell begins at an offset of the page. */
  rowAt(page: VisitedPage, start: number): LiveRow;
  place(page: number): PagePlace;
  /** Rows whose value at a place of the record passes; also those whose records cannot be read at once. */
  holding(stored: number, passes: (value: SqlValue) => boolean): Generator<LiveRow>;
  /** All row numbers, in the order of the tree. */
  numbers(): Float64Array;
  /** The highest row number, 0 when there is none above. */
  readonly last: number;
  /** Pages on which a cell lies behind the one before it. */
  shuffled(): Set<number>;
  /** The row of this number. */
  numbered(rowid: number): LiveRow | undefined;
}

/** What tells a freed row's record from others. */
export interface FreedRecord {
  rowid: number | bigint | null;
  hash: number;
  sketch: number;
}

/** Rows of a table that is not held that stay as a sample, at most; evenly chosen. */
const MOST_SAMPLED = 5000;
/** Of so many rows one goes into the sample, until it is full. */
const FIRST_STEP = 4;

/** Rows of a large table: their places in typed arrays, their values read anew each time. */
export class RereadRows extends RowColumns implements LargeRows {
  sample: LiveRow[] = [];
  /** Every so many rows one goes into the sample. */
  private step = FIRST_STEP;
  private ordered: boolean | null = null;
  /** Behind the row that was found last. */
  private nextFound = 0;
  /** Rows that records without a number may be copies of, by their sketches. */
  private likely: { places: Uint32Array; bySketch: NumberIndex } | null = null;

  constructor(
    private readonly database: Database,
    private readonly table: TableSchema
  ) {
    super();
  }

  /** Whether the next row that is added belongs into the sample. */
  get samples(): boolean {
    return this.length % this.step === 0;
  }

  /** Takes a row into the sample, of which every other one goes when it is full. */
  keep(row: LiveRow): void {
    this.sample.push(row);
    if (this.sample.length < MOST_SAMPLED) return;
    this.sample = this.sample.filter((_, i) => i % 2 === 0);
    this.step *= 2;
  }

  /** Takes the sample once all rows are there: those that would have stayed of rows that came one by one. */
  sampleAll(): void {
    while (Math.ceil(this.length / this.step) >= MOST_SAMPLED) this.step *= 2;
    for (let at = 0; at < this.length; at += this.step) {
      const number = this.pages[at]!;
      const page = singleLeafAt(this.database, number);
      const start = this.offsets[at]! - this.place(number).offset;
      if (page) this.sample.push(this.rowAt(page, start));
    }
  }

  has(rowid: number): boolean {
    return this.find(rowid) >= 0;
  }

  isCopy({ rowid, hash, sketch }: FreedRecord): boolean {
    if (typeof rowid === 'bigint') return false;
    if (rowid !== null) return this.isAlike(this.find(rowid), hash, sketch);
    const { places, bySketch } = this.likely ?? this.expect(this.sketches.subarray(0, this.length));
    for (const at of bySketch.all(sketch)) if (this.isAlike(places[at]!, hash, sketch)) return true;
    return false;
  }

  /** Looks once for the rows that have one of these sketches. */
  expect(sketches: Float64Array): NonNullable<RereadRows['likely']> {
    const expected = new NumberIndex(sketches);
    const places: number[] = [];
    for (let at = 0; at < this.length; at++)
      if (expected.find(this.sketches[at]!) >= 0) places.push(at);
    const bySketch = new NumberIndex(Float64Array.from(places, (at) => this.sketches[at]!));
    return (this.likely = { places: Uint32Array.from(places), bySketch });
  }

  /** Sketches are quick to compare, but do not tell all rows apart. */
  private isAlike(at: number, hash: number, sketch: number): boolean {
    return at >= 0 && this.sketches[at] === sketch && this.at(at)?.hash === hash;
  }

  numbered(rowid: number): LiveRow | undefined {
    const at = this.find(rowid);
    return at < 0 ? undefined : this.at(at);
  }

  /** Index of the row with this number, or -1; numbers rise along a tree, unless damage put it together of several. */
  private find(rowid: number): number {
    if (!this.inOrder) return this.indexOf(rowid);
    // Numbers are often asked for one after the other.
    if (this.nextFound >= this.length || this.rowids[this.nextFound] !== rowid)
      this.nextFound = firstFrom(this.rowids, this.length, rowid);
    const at = this.nextFound;
    if (at >= this.length || this.rowids[at] !== rowid) return -1;
    this.nextFound++;
    return at;
  }

  private indexOf(rowid: number): number {
    return this.rowids.subarray(0, this.length).indexOf(rowid);
  }

  private rises(): boolean {
    for (let i = 1; i < this.length; i++) if (this.rowids[i]! <= this.rowids[i - 1]!) return false;
    return true;
  }

  get inOrder(): boolean {
    this.ordered ??= this.rises();
    return this.ordered;
  }

  /** The highest row number, 0 when there is none above. */
  get last(): number {
    if (this.inOrder) return Math.max(0, this.rowids[this.length - 1] ?? 0);
    return this.rowids.subarray(0, this.length).reduce((most, n) => Math.max(most, n), 0);
  }

  numbers(): Float64Array {
    return this.rowids.subarray(0, this.length);
  }

  /** Pages on which a cell lies behind the one before it. */
  shuffled(): Set<number> {
    const { pages, offsets } = this;
    const found = new Set<number>();
    for (let i = 1; i < this.length; i++)
      if (pages[i] === pages[i - 1] && offsets[i]! > offsets[i - 1]!) found.add(pages[i]!);
    return found;
  }

  [Symbol.iterator](): Iterator<LiveRow> {
    return this.database.rows(this.table);
  }

  get encoding(): TextEncoding {
    return this.database.header.encoding;
  }

  leaves(): Uint32Array {
    const { pages, length } = this;
    const leaves = new Uint32Array(length);
    let count = 0;
    for (let i = 0; i < length; i++)
      if (i === 0 || pages[i] !== pages[i - 1]) leaves[count++] = pages[i]!;
    return leaves.slice(0, count);
  }

  leaf(page: number): VisitedPage | null {
    return leafAt(this.database, page);
  }

  passingLeaf(page: number): VisitedPage | null {
    return passingLeafAt(this.database, page);
  }

  readLeaf(cells: LeafCells, page: VisitedPage): boolean {
    return readLeaf(cells, this.database, page);
  }

  rowsOf(page: VisitedPage): LiveRow[] {
    const { database, table } = this;
    const cells = cellsOf(page, database.pages, database.report);
    return cells.map((cell) => database.liveRow(table, page, cell));
  }

  *holding(stored: number, passes: (value: SqlValue) => boolean): Generator<LiveRow> {
    const cells = new LeafCells();
    const cursor = new RecordCursor();
    for (const number of this.leaves()) {
      const page = this.leaf(number);
      if (!page || !this.readLeaf(cells, page)) {
        if (page) yield* this.rowsOf(page);
        continue;
      }
      for (let i = 0; i < cells.count; i++) {
        const from = cells.payloadStart[i]!;
        // What is on overflow pages, or older than the column, is left to the whole row.
        const isRead = cursor.read(page.bytes, from, from + cells.local[i]!);
        if (isRead && stored < cursor.count && !passes(cursor.value(stored, this.encoding)))
          continue;
        yield this.rowAt(page, cells.start[i]!);
      }
    }
  }

  rowAt(page: VisitedPage, start: number): LiveRow {
    const { database, table } = this;
    const cell = readCell(page.bytes, page.header.kind, start, database.pages.usable);
    return database.liveRow(table, page, cell!);
  }

  place(page: number): PagePlace {
    return this.database.pages.place(page);
  }

  at(index: number): LiveRow | undefined {
    if (index >= this.length) return undefined;
    const { pages } = this.database;
    const number = this.pages[index]!;
    const page = this.leaf(number);
    const start = this.offsets[index]! - pages.place(number).offset;
    const cell = page && readCell(page.bytes, page.header.kind, start, pages.usable);
    return cell ? this.database.liveRow(this.table, page, cell) : undefined;
  }

  *places(): Generator<LivePlace> {
    const place: LivePlace = { rowid: 0, page: 0, offset: 0 };
    for (let i = 0; i < this.length; i++) {
      place.rowid = this.rowids[i]!;
      place.page = this.pages[i]!;
      place.offset = this.offsets[i]!;
      yield place;
    }
  }
}

/** Index of the first of so many sorted numbers that is not below `value`. */
export function firstFrom(sorted: Float64Array, length: number, value: number): number {
  let low = 0;
  let high = length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle]! < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
