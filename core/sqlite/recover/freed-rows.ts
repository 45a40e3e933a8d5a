import {
  isShared,
  ownRoom,
  repeated,
  sharableRoom,
  type MakeRoom,
  type TextEncoding
} from '../../host';
import { arrange } from '../read/database';
import { sketchRange } from '../format/hash';
import { decodeRecord } from '../format/record';
import type { RecordCursor } from '../format/record-cursor';
import type { TableSchema } from '../format/schema';
import type { FreedRow, RowProof, WholeRow } from './row';

/** Rows of one table that freed space holds. Arrays of rows are such lists too. */
export interface FreedRowList extends Iterable<FreedRow> {
  readonly length: number;
  at(index: number): FreedRow | undefined;
}

/** What is known of a freed row beside its values. */
export type FreedFacts = Omit<FreedRow, 'values'>;

/** Most proofs kept for one row; a log can hold hundreds of copies. */
export const MOST_PROOFS = 12;
const SEGMENT = 1 << 20;
const FIRST = 256;
const METHODS = [
  'table',
  'log',
  'journal',
  'free-page',
  'free-block',
  'unallocated',
  'carved'
] as const satisfies RowProof['method'][];

/** Numbers of one row, in columns that other threads can take over as they are. */
interface Columns {
  /** Row number; NaN where it is lost or kept in `large`. */
  rowid: Float64Array;
  hash: Float64Array;
  /** What `sketchRange` gives for the record. */
  sketch: Float64Array;
  score: Float64Array;
  page: Float64Array;
  offset: Float64Array;
  length: Float64Array;
  spill: Float64Array;
  /** Where the record begins in the segments. */
  start: Float64Array;
  bytes: Float64Array;
  file: Uint8Array;
  method: Uint8Array;
  rebuilt: Uint8Array;
  inferred: Uint8Array;
}

/** What another thread needs to go on with rows that one found. */
export interface PackedRows {
  count: number;
  columns: Columns;
  segments: Uint8Array[];
  files: string[];
  large: Map<number, bigint>;
}

/** Rows that stay where they are when they are appended elsewhere; their bytes are shared. */
export function copyOf(rows: PackedRows): PackedRows {
  return { ...rows, columns: grown(rows.columns, rows.count) };
}

/**
 * Complete rows, of which there can be millions: numbers in typed arrays, the
 * records as bytes, decoded when a row is asked for.
 */
export class WholeRows {
  count = 0;
  columns = emptyColumns(FIRST);
  private segments: Uint8Array[] = [];
  private free = 0;
  private files: string[] = [];
  /** Row numbers past 2^53. */
  private large = new Map<number, bigint>();
  /** Further places of a row. */
  private readonly more = new Map<number, RowProof[]>();

  constructor(
    private readonly table: TableSchema,
    private readonly encoding: TextEncoding,
    /** Gives memory for records; such as threads share is worth it for many. */
    private readonly room: MakeRoom = ownRoom
  ) {}

  /** Rows of another thread as they are, without a copy of them. */
  static of(table: TableSchema, encoding: TextEncoding, rows: PackedRows): WholeRows {
    const whole = new WholeRows(table, encoding);
    whole.columns = rows.columns;
    whole.count = rows.count;
    whole.segments = rows.segments;
    whole.files = rows.files;
    whole.large = rows.large;
    // What would be added begins a segment of its own.
    whole.free = Infinity;
    return whole;
  }

  add(row: WholeRow): void {
    const at = this.next();
    const { columns } = this;
    this.setNumber(at, row.rowid);
    columns.hash[at] = row.hash;
    columns.sketch[at] = sketchRange(row.record, 0, row.record.length);
    columns.score[at] = row.score;
    columns.spill[at] = row.spill;
    columns.rebuilt[at] = row.rebuilt;
    columns.page[at] = row.proof.page;
    columns.offset[at] = row.proof.offset;
    columns.length[at] = row.proof.length;
    columns.method[at] = METHODS.indexOf(row.proof.method);
    columns.file[at] = this.fileIndex(row.proof.file);
    columns.start[at] = this.store(row.record);
    columns.bytes[at] = row.record.length;
  }

  private next(): number {
    const { rowid } = this.columns;
    if (this.count === rowid.length) this.columns = grown(this.columns, rowid.length * 2);
    return this.count++;
  }

  private fileIndex(name: string): number {
    const known = this.files.indexOf(name);
    return known >= 0 ? known : this.files.push(name) - 1;
  }

  private store(record: Uint8Array): number {
    const last = this.segments.at(-1);
    if (!last || this.free + record.length > last.length) {
      this.segments.push(new Uint8Array(this.room(Math.max(SEGMENT, record.length))));
      this.free = 0;
    }
    const index = this.segments.length - 1;
    this.segments[index]!.set(record, this.free);
    const start = index * SEGMENT + this.free;
    // A record longer than a segment fills one of its own.
    this.free += record.length;
    return start;
  }

  /** Makes room for so many rows. */
  reserve(size: number): void {
    if (size > this.columns.rowid.length) this.columns = grown(this.columns, size, this.room);
  }

  /** Appends rows that another thread found. */
  append({ count, columns, segments, files, large }: PackedRows): void {
    const from = this.count;
    const base = this.segments.length * SEGMENT;
    const room = this.columns.rowid.length;
    if (from + count > room) this.reserve(Math.max(room * 2, from + count));
    for (const name of COLUMN_NAMES) this.columns[name].set(columns[name].subarray(0, count), from);
    const names = files.map((file) => this.fileIndex(file));
    for (let i = from; i < from + count; i++) {
      this.columns.start[i]! += base;
      this.columns.file[i] = names[this.columns.file[i]!]!;
    }
    for (const [i, rowid] of large) this.large.set(from + i, rowid);
    this.segments.push(...segments);
    this.free = Infinity;
    this.count += count;
  }

  /** The rows with the first place of each in a form that other threads can share; they stay here too. */
  packed(): PackedRows {
    const { count, segments, files, large } = this;
    const isHere = isShared(this.columns.rowid);
    const columns = isHere ? this.columns : grown(this.columns, count, sharableRoom);
    return { count, columns, segments, files, large };
  }

  /** Whether a row was found in one place only. */
  isSingle(at: number): boolean {
    return !this.more.has(at);
  }

  /** The rows in a form that can be handed to another thread; they are gone from here. */
  take(): PackedRows {
    const { count, files, large } = this;
    const columns = grown(this.columns, count);
    const last = this.segments.length - 1;
    const segments = this.segments.map((bytes, i) => (i === last ? cut(bytes, this.free) : bytes));
    return { count, columns, segments, files, large };
  }

  number(at: number): number | bigint | null {
    const number = this.columns.rowid[at]!;
    if (!Number.isNaN(number)) return number;
    return this.large.size === 0 ? null : (this.large.get(at) ?? null);
  }

  setNumber(at: number, rowid: number | bigint | null): void {
    this.columns.rowid[at] = typeof rowid === 'number' ? rowid : NaN;
    if (typeof rowid === 'bigint') this.large.set(at, rowid);
  }

  /** Takes a copy's places and support into the row that it is a copy of. */
  absorb(into: number, copy: number): void {
    const { score, rebuilt } = this.columns;
    const known = this.proofs(into);
    const fresh = this.proofs(copy).filter((proof) => !known.some((p) => samePlace(p, proof)));
    this.more.set(into, [...known, ...fresh].slice(1, MOST_PROOFS));
    score[into] = Math.max(score[into]!, score[copy]!) + 1;
    rebuilt[into] = Math.min(rebuilt[into]!, rebuilt[copy]!);
  }

  private proofs(at: number): RowProof[] {
    const { file, page, offset, length, method } = this.columns;
    const own: RowProof = {
      file: this.files[file[at]!]!,
      page: page[at]!,
      offset: offset[at]!,
      length: length[at]!,
      method: METHODS[method[at]!]!
    };
    const more = this.more.size === 0 ? undefined : this.more.get(at);
    return more ? [own, ...more] : [own];
  }

  methodOf(at: number): RowProof['method'] {
    return METHODS[this.columns.method[at]!]!;
  }

  /** Everything of a row but its values. */
  facts(at: number): FreedFacts {
    const { columns } = this;
    return {
      table: this.table.name,
      rowid: this.number(at),
      lost: [],
      cut: null,
      hash: columns.hash[at]!,
      score: columns.score[at]!,
      rebuilt: columns.rebuilt[at]!,
      spill: columns.spill[at]!,
      inferred: columns.inferred[at] === 1,
      proofs: this.proofs(at)
    };
  }

  row(at: number): FreedRow {
    const facts = this.facts(at);
    const bytes = this.record(at);
    // Values of it are handed on to whoever reads them: most of that takes no memory that threads share.
    const own = isShared(bytes) ? bytes.slice() : bytes;
    const record = decodeRecord(own, this.encoding);
    return { ...facts, values: arrange(this.table, record, facts.rowid) };
  }

  private record(at: number): Uint8Array {
    const start = this.columns.start[at]!;
    const from = start % SEGMENT;
    return this.segments[Math.floor(start / SEGMENT)]!.subarray(
      from,
      from + this.columns.bytes[at]!
    );
  }

  /** Sets a cursor to a row's record. */
  point(cursor: RecordCursor, at: number): boolean {
    const start = this.columns.start[at]!;
    const from = start % SEGMENT;
    const segment = this.segments[Math.floor(start / SEGMENT)]!;
    return cursor.read(segment, from, from + this.columns.bytes[at]!);
  }
}

/** The beginning of a segment: what is shared is not copied, so that its rest costs nothing. */
function cut(segment: Uint8Array, length: number): Uint8Array {
  return isShared(segment) ? segment.subarray(0, length) : segment.slice(0, length);
}

export function samePlace(a: RowProof, b: RowProof): boolean {
  return a.file === b.file && a.offset === b.offset;
}

function emptyColumns(size: number, room = ownRoom): Columns {
  const numbers = (): Float64Array => new Float64Array(room(size * 8));
  const codes = (): Uint8Array => new Uint8Array(room(size));
  return {
    rowid: numbers(),
    hash: numbers(),
    sketch: numbers(),
    score: numbers(),
    page: numbers(),
    offset: numbers(),
    length: numbers(),
    spill: numbers(),
    start: numbers(),
    bytes: numbers(),
    file: codes(),
    method: codes(),
    rebuilt: codes(),
    inferred: codes()
  };
}

const COLUMN_NAMES = Object.keys(emptyColumns(0)) as (keyof Columns)[];

/** The columns in arrays of another size. */
function grown(columns: Columns, size: number, room = ownRoom): Columns {
  const larger = emptyColumns(size, room);
  for (const name of COLUMN_NAMES) larger[name].set(columns[name].subarray(0, size));
  return larger;
}

/** The freed rows of one table: those that are complete, and those of which something is lost. */
export class FreedRows implements FreedRowList {
  readonly whole: WholeRows;
  /** Rows that are cut, or of which an index entry alone is left. */
  cut: FreedRow[] = [];
  /** Complete rows that stay once copies are folded; all of them before. */
  private kept: Uint32Array | null = null;
  /** Offsets at which several rows were found. */
  private sharedOffsets: ReadonlySet<number> | null = null;

  constructor(
    table: TableSchema,
    readonly encoding: TextEncoding,
    room: MakeRoom = ownRoom
  ) {
    this.whole = new WholeRows(table, encoding, room);
  }

  add(row: FreedRow | WholeRow): void {
    if ('record' in row) this.whole.add(row);
    else this.cut.push(row);
  }

  get length(): number {
    return (this.kept?.length ?? this.whole.count) + this.cut.length;
  }

  /** Indexes among the complete rows of those that stay. */
  get indexes(): Uint32Array {
    this.kept ??= new Uint32Array(this.whole.count).map((_, i) => i);
    return this.kept;
  }

  keep(indexes: Uint32Array): void {
    this.kept = indexes;
  }

  at(index: number): FreedRow | undefined {
    const { indexes, cut } = this;
    return index < indexes.length ? this.whole.row(indexes[index]!) : cut[index - indexes.length];
  }

  /** Sets a cursor to the record of a complete row; false for rows of which something is lost. */
  point(cursor: RecordCursor, index: number): boolean {
    const { indexes } = this;
    return index < indexes.length && this.whole.point(cursor, indexes[index]!);
  }

  /** Places of some rows among the complete ones. */
  placesOf(indexes: Uint32Array): Uint32Array {
    return indexes.map((index) => this.indexes[index]!);
  }

  /**
   * Whether a row is complete and was found in one place, at which no other
   * one was found.
   */
  isSingle(index: number): boolean {
    const { indexes, whole } = this;
    if (index >= indexes.length || !whole.isSingle(indexes[index]!)) return false;
    this.sharedOffsets ??= repeated(this.offsets());
    return !this.sharedOffsets.has(whole.columns.offset[indexes[index]!]!);
  }

  private offsets(): Float64Array {
    const { indexes, whole, cut } = this;
    const offsets = new Float64Array(this.length);
    for (let i = 0; i < indexes.length; i++) offsets[i] = whole.columns.offset[indexes[i]!]!;
    for (let i = 0; i < cut.length; i++) offsets[indexes.length + i] = cut[i]!.proofs[0]!.offset;
    return offsets;
  }

  /** The row number, or NaN. */
  rowidAt(index: number): number {
    const { indexes, cut } = this;
    if (index < indexes.length) return this.whole.columns.rowid[indexes[index]!]!;
    const { rowid } = cut[index - indexes.length]!;
    return typeof rowid === 'number' ? rowid : NaN;
  }

  factsAt(index: number): FreedFacts {
    const { indexes, cut } = this;
    return index < indexes.length
      ? this.whole.facts(indexes[index]!)
      : cut[index - indexes.length]!;
  }

  *[Symbol.iterator](): Generator<FreedRow> {
    for (const at of this.indexes) yield this.whole.row(at);
    yield* this.cut;
  }
}

/** The row numbers that freed rows have, without decoding them. */
export function* rowNumbersOf(rows: FreedRowList): Generator<number> {
  if (rows instanceof FreedRows) {
    for (const at of rows.indexes) {
      const number = rows.whole.columns.rowid[at]!;
      if (!Number.isNaN(number)) yield number;
    }
  }
  const rest = rows instanceof FreedRows ? rows.cut : rows;
  for (const { rowid } of rest) if (typeof rowid === 'number') yield rowid;
}
