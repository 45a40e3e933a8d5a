import { md5 } from '@noble/hashes/legacy.js';
import { roomFor, toHex } from '../host';
import type { ProofMethod } from '../records';
import {
  FreedRows,
  isReread,
  rowNumbersOf,
  sampleOf,
  type FreedRow,
  type FreedRowList,
  type LargeRows,
  type LiveRow,
  type LiveRows,
  type RecordCursor,
  type RecoveredTable,
  type SqlValue,
  type TableSchema
} from '../sqlite';
import { ColumnIndex, keyNumber, keyOf } from './column-index';
import { NumberPairs, type PlainJoin } from './joins';
import { LeafRows } from './leaf-rows';

/** A table that profiles read: of a database, or made of the entries of a log. */
export interface ReadableTable extends RecoveredTable {
  method?: ProofMethod;
}

/** A row of a store, live or freed, as reading profiles see it. */
export interface StoreRow {
  table: TableView;
  rowid: number | bigint | null;
  values: SqlValue[];
  live: LiveRow | null;
  freed: FreedRow | null;
}

/** Whether a name stands for the row number where no column has it. */
export function namesNumber(name: string): boolean {
  return /^(rowid|_rowid_|oid)$/i.test(name);
}

/** One table of a store with all rows that were found. */
export class TableView {
  readonly schema: TableSchema;
  /** There are too many live rows to hold them; they are read again each time. */
  readonly isLarge: boolean;
  /** How rows were read, where they are no rows of a database. */
  readonly method: ProofMethod | null;
  /** Its pages were put together from a raw medium. */
  readonly carved: boolean;
  /** The last row number given, where the table counts; else null. */
  readonly lastNumber: number | null;
  private readonly liveRows: LiveRows;
  private readonly freedRows: FreedRowList;
  private all: StoreRow[] | null = null;
  private readonly columns = new Map<string, number>();
  /** Places of columns by their names as they were asked for. */
  private readonly asked = new Map<string, number>();
  private readonly indexes = new Map<string, ColumnIndex>();
  /** What was found last, by column and value. */
  private readonly found = new Map<string, Map<SqlValue, readonly StoreRow[]>>();

  constructor(table: ReadableTable) {
    this.schema = table.schema;
    this.method = table.method ?? null;
    this.lastNumber = table.lastNumber ?? null;
    this.carved = table.carved ?? false;
    table.schema.columns.forEach((column, i) => this.columns.set(column.name.toLowerCase(), i));
    this.liveRows = table.live;
    this.freedRows = table.freed;
    this.isLarge = isReread(table.live);
  }

  /** All rows, live ones first. Of a large table this holds everything in memory: ask only for small ones. */
  get rows(): StoreRow[] {
    this.all ??= [...this.live(), ...this.freed()];
    return this.all;
  }

  *live(): Generator<StoreRow> {
    for (const row of this.liveRows) yield this.row(row, null);
  }

  /** The live rows, where they are read again each time. */
  get large(): LargeRows | null {
    return isReread(this.liveRows) ? this.liveRows : null;
  }

  get freedAsBytes(): FreedRows | null {
    return this.freedRows instanceof FreedRows ? this.freedRows : null;
  }

  /** A row that was read from the large table's own pages. */
  liveRow(row: LiveRow): StoreRow {
    return this.row(row, null);
  }

  get liveCount(): number {
    return this.liveRows.length;
  }

  /** Rows found in freed space. */
  *freed(): Generator<StoreRow> {
    for (const row of this.freedRows) yield this.row(null, row);
  }

  get freedCount(): number {
    return this.freedRows.length;
  }

  freedAt(index: number): StoreRow {
    return this.row(null, this.freedRows.at(index)!);
  }

  /** A row by its place among all rows, live ones first. */
  rowAt(index: number): StoreRow {
    if (!this.isLarge) return this.rows[index]!;
    const { length } = this.liveRows;
    return index < length ? this.row(this.liveRows.at(index)!, null) : this.freedAt(index - length);
  }

  /** Rows that show what the columns hold. */
  *sample(): Generator<StoreRow> {
    for (const row of sampleOf(this.liveRows)) yield this.row(row, null);
    if (!this.isLarge) yield* this.freed();
    else
      for (let at = 0; at < Math.min(this.freedCount, SAMPLED_FREED); at++) yield this.freedAt(at);
  }

  /** Row numbers of all rows that have one. */
  numbers(): Float64Array {
    const numbers = new Float64Array(this.liveCount + this.freedCount);
    let count = 0;
    if (isReread(this.liveRows)) {
      numbers.set(this.liveRows.numbers());
      count = this.liveCount;
    } else
      for (const { rowid } of this.liveRows)
        if (typeof rowid === 'number') numbers[count++] = rowid;
    for (const rowid of rowNumbersOf(this.freedRows)) numbers[count++] = rowid;
    return numbers.subarray(0, count);
  }

  private row(live: LiveRow | null, freed: FreedRow | null): StoreRow {
    const from = (live ?? freed)!;
    return { table: this, rowid: from.rowid, values: from.values, live, freed };
  }

  has(column: string): boolean {
    return this.columns.has(column.toLowerCase());
  }

  /** Index of a column, or -1. */
  columnIndex(column: string): number {
    let at = this.asked.get(column);
    if (at === undefined) {
      at = this.columns.get(column.toLowerCase()) ?? -1;
      this.asked.set(column, at);
    }
    return at;
  }

  /** A column's value; `rowid` names the row number also where no column stands for it. */
  value(row: StoreRow, column: string): SqlValue {
    const at = this.columnIndex(column);
    if (at >= 0) return row.values[at] ?? null;
    return namesNumber(column) ? row.rowid : null;
  }

  /** Its short texts, each once. */
  texts(): Set<string> {
    const found = new Set<string>();
    for (const { values } of this.rows) {
      for (const value of values) {
        if (typeof value === 'string' && value.length <= 128) found.add(value);
      }
    }
    return found;
  }

  /** Where each value of a column stands among all rows, live ones first. */
  index(column: string): ColumnIndex {
    const name = column.toLowerCase();
    let index = this.indexes.get(name);
    if (!index) this.indexes.set(name, (index = this.indexOn(name)));
    return index;
  }

  /** Rows whose column holds the value, live ones first. */
  find(column: string, value: SqlValue): readonly StoreRow[] {
    const known = this.found.get(column);
    const rows = known?.get(value);
    if (rows) return rows;
    const found = this.search(column, value);
    // Of a large table what one message asks again and again, of others all.
    if (!known || known.size >= (this.isLarge ? 1 : MOST_FOUND))
      this.found.set(column, new Map([[value, found]]));
    else known.set(value, found);
    return found;
  }

  private search(column: string, value: SqlValue): readonly StoreRow[] {
    const name = column.toLowerCase();
    const places = this.index(name).find(value);
    if (places.length === 0) return NONE;
    const rows = places.map((at) => this.rowAt(at));
    // Values that are no numbers are found by a hash.
    return typeof value === 'number'
      ? rows
      : rows.filter((row) => keyOf(this.value(row, name)) === keyOf(value));
  }

  private indexOn(name: string): ColumnIndex {
    const column: NumberColumn = { name, numberOf: keyNumber };
    if (!this.isLarge) return new ColumnIndex(numbersOf(this.rows, column));
    const [live] = this.liveNumbers([column]);
    const freed = numbersOf(this.freed(), column);
    const keys = new Float64Array(live!.length + freed.length);
    keys.set(live!);
    keys.set(freed, live!.length);
    return new ColumnIndex(keys);
  }

  /** Numbers of one column by those of another, of live rows and of freed ones. */
  pairs(match: string, take: string): PlainJoin {
    const key: NumberColumn = { name: match, numberOf: keyNumber };
    const value: NumberColumn = { name: take, numberOf: ownNumber };
    const [keys, values] = this.liveNumbers([key, value]);
    const freed = [...this.freed()];
    return {
      live: NumberPairs.of(keys!, values!),
      freed: NumberPairs.of(numbersOf(freed, key), numbersOf(freed, value))
    };
  }

  /** Columns of the live rows as numbers, in the order of the rows. */
  private liveNumbers(columns: readonly NumberColumn[]): Float64Array[] {
    const { large } = this;
    if (!large) return columns.map((column) => numbersOf(this.live(), column));
    const numbers = columns.map(() => new Float64Array(roomFor(this.liveCount * 8)));
    const stored = columns.map(({ name }) => this.storedAt(name));
    let count = 0;
    const isTaken = (cursor: RecordCursor): boolean => {
      for (let n = 0; n < stored.length; n++) {
        const at = stored[n]!;
        if (at < 0 || at >= cursor.count) return false;
        numbers[n]![count] = columns[n]!.numberOf(cursor.value(at, large.encoding));
      }
      count++;
      return true;
    };
    eachRecord(large, isTaken, (live) => {
      const row = this.liveRow(live);
      columns.forEach((column, n) => (numbers[n]![count] = numberIn(row, column)));
      count++;
    });
    return numbers.map((column) => column.subarray(0, count));
  }

  /** Place of a column in the stored record, or -1. */
  private storedAt(name: string): number {
    const at = this.columnIndex(name);
    const column = at < 0 ? undefined : this.schema.columns[at];
    return !column || column.isRowid || column.virtual ? -1 : this.schema.order.indexOf(at);
  }
}

/** A column, and the number that a value of it stands for. */
interface NumberColumn {
  name: string;
  numberOf: (value: SqlValue) => number;
}

function ownNumber(value: SqlValue): number {
  return typeof value === 'number' ? value : NaN;
}

function numberIn(row: StoreRow, { name, numberOf }: NumberColumn): number {
  return numberOf(row.table.value(row, name));
}

function numbersOf(rows: Iterable<StoreRow>, column: NumberColumn): Float64Array {
  const list: number[] = [];
  for (const row of rows) list.push(numberIn(row, column));
  const numbers = new Float64Array(roomFor(list.length * 8));
  numbers.set(list);
  return numbers;
}

/** Goes over a large table's live rows in their order: as records, or whole where a record is not taken. */
function eachRecord(
  large: LargeRows,
  isTaken: (cursor: RecordCursor) => boolean,
  whole: (row: LiveRow) => void
): void {
  const rows = new LeafRows(large);
  for (const number of large.leaves()) {
    // Somebody may be going over another table's pages in passing.
    const page = large.leaf(number);
    if (!page) continue;
    if (!rows.open(page)) {
      for (const row of large.rowsOf(page)) whole(row);
      continue;
    }
    for (let at = 0; at < rows.count; at++)
      if (!rows.point(at) || !isTaken(rows.cursor)) whole(large.rowAt(page, rows.start(at)));
  }
}

/** Answers that are kept of a table that is held in memory anyway. */
const MOST_FOUND = 4096;
const SAMPLED_FREED = 2000;
const NONE: readonly StoreRow[] = [];

/** The tables of one store by name, whatever their case. */
export class TableSet {
  private readonly byName = new Map<string, TableView>();
  private hashed: Map<string, string> | null = null;

  constructor(tables: ReadableTable[]) {
    for (const table of tables)
      this.byName.set(table.schema.name.toLowerCase(), new TableView(table));
  }

  get(name: string): TableView | undefined {
    return this.byName.get(name.toLowerCase());
  }

  /** All texts in a table's rows, in lower case. */
  textsOf(name: string): ReadonlySet<string> {
    const texts = new Set<string>();
    for (const { values } of this.get(name)?.rows ?? []) {
      for (const value of values) if (typeof value === 'string') texts.add(value.toLowerCase());
    }
    return texts;
  }

  /** The text of this store whose MD5 stands in a table's name; else the digits themselves. */
  hashedName(table: string): string {
    const digits = /([0-9a-f]{32})/i.exec(table)?.[1]?.toLowerCase();
    if (digits === undefined) return table;
    this.hashed ??= this.hashTexts();
    return this.hashed.get(digits) ?? digits;
  }

  private hashTexts(): Map<string, string> {
    const encoder = new TextEncoder();
    const hashed = new Map<string, string>();
    for (const table of this.byName.values()) {
      if (/[0-9a-f]{32}/i.test(table.schema.name)) continue;
      for (const text of table.texts()) hashed.set(toHex(md5(encoder.encode(text))), text);
    }
    return hashed;
  }
}
