import { ChunkedSource, u32be, type ByteSource } from '../../host';
import { cellsOf, holdsRecords, walkTree, type VisitedPage } from '../format/btree';
import { declaredTables } from './declarations';
import { guessTables, looseTrees } from './guess-tables';
import { SqliteFormatError, type Damage } from '../format/errors';
import { HEADER_SIZE, parseHeader, type DatabaseHeader } from '../format/header';
import { hashBytes } from '../format/hash';
import { readJournal, type RollbackJournal } from '../format/journal';
import { freePages } from '../format/freelist';
import { gatherOverflow } from '../format/overflow';
import type { Cell } from '../format/page';
import { PageSet } from '../format/pages';
import { cutText, decodeRecord, type SqlValue } from '../format/record';
import {
  indexSchema,
  SCHEMA_TABLE,
  schemaRow,
  tableSchema,
  type IndexSchema,
  type SchemaRow,
  type TableSchema
} from '../format/schema';
import { readWal, type WriteAheadLog } from '../format/wal';

export interface DatabaseFiles {
  main: ByteSource;
  /** The write-ahead log beside it, `-wal`. */
  wal?: ByteSource | undefined;
  /** The rollback journal beside it, `-journal`. */
  journal?: ByteSource | undefined;
}

/** A live row, its values in declared column order. */
export interface LiveRow {
  rowid: number | bigint | null;
  values: SqlValue[];
  page: number;
  /** File that holds the cell (the log, when the page was taken from there). */
  file: string;
  /** Offset of the cell in that file. */
  offset: number;
  /** Length of the cell on its page, in bytes. */
  length: number;
  /** Hash of the record's bytes, for telling copies. */
  hash: number;
  /** Values that the record holds; fewer than declared in rows older than an added column. */
  stored: number;
  /** The text in which the record breaks off, and how many bytes of it are lost; absent where it is whole. */
  cut?: { column: number; bytes: number };
  /** Where the record goes on, page by page; absent where all of it is in the cell. */
  rest?: RowPlace[];
}

/** A stretch of a row's bytes. */
export interface RowPlace {
  page: number;
  file: string;
  offset: number;
  length: number;
}

/** A SQLite database opened for reading, as of its last commit. */
export class Database {
  readonly damage: Damage[] = [];
  readonly tables: TableSchema[] = [];
  readonly indexes: IndexSchema[] = [];
  readonly schema: SchemaRow[] = [];
  /** Roots of further trees of a table, by its name, where damage cut them off from its own. */
  readonly adopted = new Map<string, number[]>();
  /** Declarations were not read but worked out from the rows. */
  guessed = false;
  /** It was put together from a raw medium. */
  carved = false;
  /** Its pages were picked up one by one: nothing says whether their rows were deleted. */
  loose = false;
  /** Databases of the same medium as loose pages: what is a copy of their rows was not deleted. */
  readonly beside: Database[] = [];

  private constructor(
    readonly name: string,
    readonly header: DatabaseHeader,
    readonly pages: PageSet,
    readonly log: WriteAheadLog | null,
    readonly journal: RollbackJournal | null
  ) {}

  /** @throws SqliteFormatError when the file is no readable database. */
  static open(files: DatabaseFiles): Database {
    const main = new ChunkedSource(files.main);
    const header = openHeader(main, files);
    const wal = files.wal ? readWal(new ChunkedSource(files.wal), header.pageSize) : null;
    const log = wal && wal.pageSize === header.pageSize ? wal : null;
    const read = files.journal && readJournal(new ChunkedSource(files.journal), header.pageSize);
    const journal = read && read.pageSize === header.pageSize ? read : null;
    const current = committedHeader(main, header, log, journal);
    const pages = new PageSet(main, current, log, journal);
    const database = new Database(main.name, current, pages, log, journal);
    database.readSchema();
    return database;
  }

  /**
   * Opens pages under a header that was worked out. Where no declaration can
   * be read, tables are told by the shape of their rows, with names from
   * `known` tables of the same shape.
   */
  static openUnder(
    header: DatabaseHeader,
    pages: PageSet,
    known: readonly TableSchema[],
    files: { log: WriteAheadLog | null; journal: RollbackJournal | null } = NO_FILES
  ): Database {
    const database = new Database(pages.file.name, header, pages, files.log, files.journal);
    database.readSchema();
    if (database.tables.length === 0) database.guessSchema(known);
    return database;
  }

  private guessSchema(known: readonly TableSchema[]): void {
    this.damage.length = 0;
    const trunks = freePages(this.pages, this.header);
    const trees = looseTrees(this.pages, this.header.encoding, (number) => trunks.has(number));
    const declared = declaredTables(this.pages, this.header.encoding);
    const { tables, more } = guessTables(trees, [...declared, ...known]);
    this.tables.push(...tables);
    for (const { name, root, sql } of tables)
      this.schema.push({ type: 'table', name, table: name, root, sql });
    for (const [name, roots] of more) this.adopted.set(name, roots);
    this.guessed = true;
  }

  /** The roots of all trees that make up a table. */
  rootsOf({ name, root }: TableSchema): number[] {
    return [root, ...(this.adopted.get(name) ?? [])];
  }

  private readSchema(): void {
    for (const row of this.rows(SCHEMA_TABLE)) {
      const parsed = schemaRow(row.values);
      if (parsed) this.schema.push(parsed);
    }
    for (const row of this.schema) {
      const table = tableSchema(row);
      if (table && table.root > 0) this.tables.push(table);
    }
    for (const row of this.schema) {
      const index = indexSchema(row, this.tables);
      if (index) this.indexes.push(index);
    }
  }

  table(name: string): TableSchema | undefined {
    return this.tables.find((table) => table.name.toLowerCase() === name.toLowerCase());
  }

  /** Live rows in the order of the tree's pages. Damage is noted and passed over. */
  *rows(table: TableSchema): Generator<LiveRow> {
    for (const page of this.walk(table)) {
      if (!holdsRecords(page.header.kind)) continue;
      for (const cell of cellsOf(page, this.pages, this.report)) {
        yield this.liveRow(table, page, cell);
      }
    }
  }

  /** The values of live rows alone, for long listings that need no proof. */
  *values(table: TableSchema): Generator<SqlValue[]> {
    const plain = isPlain(table);
    for (const page of this.walk(table)) {
      if (!holdsRecords(page.header.kind)) continue;
      for (const cell of cellsOf(page, this.pages, this.report)) {
        const stored = decodeRecord(this.payload(page.bytes, cell), this.header.encoding);
        if (plain && stored.length === table.columns.length) yield stored;
        else yield arrange(table, stored, table.declaration.withoutRowid ? null : cell.rowid);
      }
    }
  }

  /** Pages of all trees of a table. */
  *walk(table: TableSchema): Generator<VisitedPage> {
    for (const root of this.rootsOf(table)) yield* walkTree(this.pages, root, this.report);
  }

  /** The same for those who go over large tables once: the bytes of a page stand only until the next one. */
  *pass(table: TableSchema): Generator<VisitedPage> {
    const { pages, report } = this;
    for (const root of this.rootsOf(table))
      yield* walkTree(pages, root, report, (number) => pages.passing(number));
  }

  readonly report = (damage: Damage): void => void this.damage.push(damage);

  /** The row of a cell that belongs to a table's tree. */
  liveRow(table: TableSchema, page: VisitedPage, cell: Cell): LiveRow {
    const payload = this.payload(page.bytes, cell);
    const stored = decodeRecord(payload, this.header.encoding);
    const rowid = table.declaration.withoutRowid ? null : cell.rowid;
    const place = this.pages.place(page.number);
    const row: LiveRow = {
      rowid,
      values: arrange(table, stored, rowid),
      page: page.number,
      file: place.source.name,
      offset: place.offset + cell.start,
      length: cell.end - cell.start,
      hash: hashBytes(payload),
      stored: stored.length
    };
    if (payload.length < cell.payload) this.keepCut(row, table, payload);
    if (cell.overflow > 0) row.rest = this.restOf(cell, payload.length);
    return row;
  }

  /** The stretches of a payload on its overflow pages, behind the link that each begins with. */
  private restOf({ overflow, local }: Cell, size: number): RowPlace[] {
    const places: RowPlace[] = [];
    let left = size - local;
    for (let next = overflow; left > 0 && this.pages.inRange(next);) {
      const page = this.pages.page(next);
      if (!page) break;
      const { source, offset } = this.pages.place(next);
      const length = Math.min(left, this.pages.usable - LINK);
      places.push({ page: next, file: source.name, offset: offset + LINK, length });
      left -= length;
      next = u32be(page, 0);
    }
    return places;
  }

  /** What is left of the text in which a record breaks off; what stood behind it is lost, and no default. */
  private keepCut(row: LiveRow, table: TableSchema, payload: Uint8Array): void {
    const lost = table.order.slice(row.stored);
    for (const column of lost) if (!table.columns[column]!.isRowid) row.values[column] = null;
    const cut = cutText(payload, this.header.encoding);
    const column = lost[0];
    if (!cut || column === undefined) return;
    row.values[column] = cut.text;
    row.cut = { column, bytes: cut.bytes };
  }

  /** A cell's whole payload, overflow pages included. */
  payload(page: Uint8Array, cell: Cell): Uint8Array {
    const local = page.subarray(cell.payloadStart, cell.payloadStart + cell.local);
    if (cell.overflow === 0) return local;
    const { payload, sound } = gatherOverflow(this.pages, local, cell.payload, cell.overflow);
    if (sound === cell.payload) return payload;
    this.damage.push({
      file: this.pages.file.name,
      page: cell.overflow,
      offset: (cell.overflow - 1) * this.pages.pageSize,
      structure: 'overflow',
      reason: `${cell.payload - sound} of ${cell.payload} bytes are missing`
    });
    return payload.subarray(0, sound);
  }
}

/**
 * Puts stored values into declared column order: the row number where a
 * column stands for it, the declared default where the record is older than
 * the column, floating point where REAL was stored as an integer.
 */
export function arrange(
  table: TableSchema,
  stored: SqlValue[],
  rowid: number | bigint | null
): SqlValue[] {
  const values: SqlValue[] = table.columns.map((column) => column.fallback);
  table.order.forEach((index, i) => {
    const value = stored[i];
    if (value !== undefined) values[index] = value;
  });
  table.columns.forEach((column, i) => {
    if (column.isRowid) values[i] = rowid;
    else if (column.virtual) values[i] = null;
  });
  return values;
}

/** Bytes of the link at the beginning of an overflow page (file format, section 1.6). */
const LINK = 4;

const NO_FILES = { log: null, journal: null };

/** Whether stored values stand in declared order as they are. */
function isPlain({ columns, order }: TableSchema): boolean {
  return (
    columns.every((column) => !column.isRowid && !column.virtual) &&
    order.every((index, i) => index === i)
  );
}

function openHeader(main: ByteSource, files: DatabaseFiles): DatabaseHeader {
  try {
    return parseHeader(main.read(0, HEADER_SIZE), main.name);
  } catch (error) {
    const fromLog = files.wal && error instanceof SqliteFormatError && headerInLog(files.wal);
    if (fromLog) return fromLog;
    if (error instanceof SqliteFormatError && error.problem === 'not-a-database') {
      throw new SqliteFormatError(main.name, 0, SqliteFormatError.problemOf(main.read(0, 4096)));
    }
    throw error;
  }
}

/** A database that was never checkpointed may have its first page in the log alone. */
function headerInLog(source: ByteSource): DatabaseHeader | null {
  const log = readWal(source);
  const first = log?.frames.slice(0, log.committed).find((frame) => frame.page === 1);
  return first ? parseHeader(source.read(first.offset, HEADER_SIZE), source.name) : null;
}

/** The header as of the last commit: the log or a hot journal may hold a newer page 1. */
function committedHeader(
  main: ByteSource,
  header: DatabaseHeader,
  log: WriteAheadLog | null,
  journal: RollbackJournal | null
): DatabaseHeader {
  const place = new PageSet(main, header, log, journal).place(1);
  const bytes = place.source.read(place.offset, HEADER_SIZE);
  return bytes.length === HEADER_SIZE ? parseHeader(bytes, main.name) : header;
}
