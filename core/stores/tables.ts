import { md5 } from '@noble/hashes/legacy.js';
import { toHex } from '../bytes';
import type { ProofMethod } from '../records';
import {
  isReread,
  placesOf,
  sampleOf,
  type FreedRow,
  type LiveRow,
  type LiveRows,
  type RecoveredTable,
  type SqlValue,
  type TableSchema
} from '../sqlite';

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

/** One table of a store with all rows that were found. */
export class TableView {
  readonly schema: TableSchema;
  /** Rows found in freed space. */
  readonly freed: StoreRow[];
  /** There are too many live rows to hold them; they are read again each time. */
  readonly isLarge: boolean;
  /** How rows were read, where they are no rows of a database. */
  readonly method: ProofMethod | null;
  /** Its pages were put together from a raw medium. */
  readonly carved: boolean;
  /** The last row number given, where the table counts; else null. */
  readonly lastNumber: number | null;
  private readonly liveRows: LiveRows;
  private all: StoreRow[] | null = null;
  private readonly columns = new Map<string, number>();
  private readonly indexes = new Map<string, Map<string, StoreRow[]>>();

  constructor(private readonly source: ReadableTable) {
    const table = source;
    this.schema = table.schema;
    this.method = table.method ?? null;
    this.lastNumber = table.lastNumber ?? null;
    this.carved = table.carved ?? false;
    table.schema.columns.forEach((column, i) => this.columns.set(column.name.toLowerCase(), i));
    this.liveRows = table.live;
    this.isLarge = isReread(table.live);
    this.freed = table.freed.map((row) => this.row(null, row));
  }

  /** Gives the freed rows of a large table one by one and lets go of each: what they say is kept by who asked. */
  *takeFreed(): Generator<StoreRow> {
    this.source.freed.length = 0;
    for (let row = this.freed.pop(); row; row = this.freed.pop()) yield row;
  }

  /** All rows, live ones first. Of a large table this holds everything in memory: ask only where rows are looked up. */
  get rows(): StoreRow[] {
    this.all ??= [...this.live(), ...this.freed];
    return this.all;
  }

  *live(): Generator<StoreRow> {
    for (const row of this.liveRows) yield this.row(row, null);
  }

  get liveCount(): number {
    return this.liveRows.length;
  }

  /** Rows that show what the columns hold. */
  *sample(): Generator<StoreRow> {
    for (const row of sampleOf(this.liveRows)) yield this.row(row, null);
    yield* this.freed;
  }

  /** Row numbers of all rows that have one. */
  numbers(): number[] {
    const numbers: number[] = [];
    for (const { rowid } of placesOf(this.liveRows))
      if (typeof rowid === 'number') numbers.push(rowid);
    for (const { rowid } of this.freed) if (typeof rowid === 'number') numbers.push(rowid);
    return numbers;
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
    return this.columns.get(column.toLowerCase()) ?? -1;
  }

  /** A column's value; `rowid` names the row number also where no column stands for it. */
  value(row: StoreRow, column: string): SqlValue {
    const at = this.columnIndex(column);
    if (at >= 0) return row.values[at] ?? null;
    return /^(rowid|_rowid_|oid)$/i.test(column) ? row.rowid : null;
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

  /** Rows whose column holds the value, live ones first. */
  find(column: string, value: SqlValue): readonly StoreRow[] {
    return this.indexOn(column).get(keyOf(value)) ?? NONE;
  }

  private indexOn(column: string): Map<string, StoreRow[]> {
    const name = column.toLowerCase();
    let index = this.indexes.get(name);
    if (!index) {
      index = new Map();
      for (const row of this.rows) {
        const value = this.value(row, name);
        if (value === null) continue;
        const key = keyOf(value);
        const list = index.get(key);
        if (list) list.push(row);
        else index.set(key, [row]);
      }
      this.indexes.set(name, index);
    }
    return index;
  }
}

const NONE: readonly StoreRow[] = [];

/** Values compare as text, so that numbers kept in text columns join. */
function keyOf(value: SqlValue): string {
  return value instanceof Uint8Array ? `x${value.join(',')}` : String(value);
}

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
