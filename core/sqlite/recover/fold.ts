import { NumberIndex } from '../../host';
import type { LiveRow } from '../read/database';
import {
  indexOf,
  isReread,
  sampleOf,
  type FreedRecord,
  type LargeRows,
  type LiveIndex,
  type LiveRows
} from '../read/live-rows';
import type { SqlValue } from '../format/record';
import { RecordCursor } from '../format/record-cursor';
import type { TableSchema } from '../format/schema';
import { MOST_PROOFS, samePlace, type FreedRows, type WholeRows } from './freed-rows';
import type { FreedRow } from './row';

/**
 * Removes what is no deletion: copies of live rows, whole or cut; `live` holds
 * those of each database that counts. Joins copies of one deleted row into one
 * with several proofs.
 */
export function foldRows(table: TableSchema, live: readonly LiveRows[], freed: FreedRows): void {
  const joined = joinCopies(freed.whole, live.map(indexOf));
  freed.keep(dropReused(freed.whole, joined));
  const { cut } = freed;
  if (cut.length === 0) return;
  freed.cut = [];
  const anchors = new Anchors(table, live, freed, cut);
  const left = cut.filter((row) => !anchors.holds(row));
  freed.cut = joinCut(left, rowidColumn(table));
}

/** Indexes of the rows that are no copies, in the order in which they were found. */
function joinCopies(whole: WholeRows, known: readonly LiveIndex[]): Uint32Array {
  const hashes = whole.columns.hash.subarray(0, whole.count);
  const byHash = new NumberIndex(hashes);
  const sketches = whole.columns.sketch.subarray(0, whole.count);
  for (const live of known) live.expect(sketchesOfNameless(whole));
  const isKept = new Uint8Array(whole.count);
  const twinOf = (at: number, number: number | bigint | null): number | undefined => {
    for (const other of byHash.all(hashes[at]!))
      if (isKept[other] === 1 && (number === null || whole.number(other) === number)) return other;
    return undefined;
  };
  const record: FreedRecord = { rowid: null, hash: 0, sketch: 0 };
  const join = (at: number, number: number | bigint | null): void => {
    record.rowid = number;
    record.hash = hashes[at]!;
    record.sketch = sketches[at]!;
    for (const live of known) if (live.isCopy(record)) return;
    const twin = byHash.isAlone(at) ? undefined : twinOf(at, number);
    if (twin === undefined) isKept[at] = 1;
    else whole.absorb(twin, at);
  };
  // Rows whose number survived come first, so that those without one join them.
  for (const isNamed of [true, false]) {
    for (let at = 0; at < whole.count; at++) {
      const number = whole.number(at);
      if ((number !== null) === isNamed) join(at, number);
    }
  }
  return placesOfOnes(isKept);
}

function sketchesOfNameless(whole: WholeRows): Float64Array {
  const sketches = new Float64Array(whole.count);
  let count = 0;
  for (let at = 0; at < whole.count; at++)
    if (whole.number(at) === null) sketches[count++] = whole.columns.sketch[at]!;
  return sketches.subarray(0, count);
}

function placesOfOnes(flags: Uint8Array): Uint32Array {
  const places = new Uint32Array(flags.length);
  let count = 0;
  for (let at = 0; at < flags.length; at++) if (flags[at] === 1) places[count++] = at;
  return places.subarray(0, count);
}

function absorb(into: FreedRow, copy: FreedRow): void {
  const fresh = copy.proofs.filter((proof) => !into.proofs.some((p) => samePlace(p, proof)));
  into.proofs = [...into.proofs, ...fresh].slice(0, MOST_PROOFS);
  into.score = Math.max(into.score, copy.score) + 1;
  into.rebuilt = Math.min(into.rebuilt, copy.rebuilt);
}

/**
 * Two rows that end on the same overflow page: the page was used again, so
 * its content belongs to the row that was written last.
 */
function dropReused(whole: WholeRows, rows: Uint32Array): Uint32Array {
  const { spill } = whole.columns;
  const last = new Map<number, number>();
  for (const at of rows) {
    if (spill[at] === 0) continue;
    const other = last.get(spill[at]!);
    if (other === undefined || isLater(whole, at, other)) last.set(spill[at]!, at);
  }
  if (last.size === 0) return rows;
  return rows.filter((at) => spill[at] === 0 || last.get(spill[at]!) === at);
}

function isLater(whole: WholeRows, at: number, other: number): boolean {
  const [number, before] = [whole.number(at), whole.number(other)];
  if (number !== null && before !== null) return number > before;
  return whole.columns.score[at]! > whole.columns.score[other]!;
}

/** Finds whole rows that a cut one is a part of, by row number or by its most telling value. */
class Anchors {
  private readonly column: number;
  private readonly rowid: number;
  private readonly byValue = new Map<SqlValue, SqlValue[][]>();
  private readonly byRowid = new Map<number | bigint, SqlValue[][]>();
  /** Cut rows that are parts of others by their text. */
  private readonly known = new Set<FreedRow>();

  constructor(
    private readonly table: TableSchema,
    live: readonly LiveRows[],
    whole: FreedRows,
    cut: readonly FreedRow[]
  ) {
    this.rowid = rowidColumn(table);
    this.column = mostTelling(table, firstValues(live, whole));
    const rowids = new Set(cut.flatMap(({ rowid }) => rowid ?? []));
    const values = new Set(cut.map((row) => (this.column < 0 ? null : row.values[this.column])));
    const keep = (row: { rowid: number | bigint | null; values: SqlValue[] }): void => {
      if (row.rowid !== null && rowids.has(row.rowid)) push(this.byRowid, row.rowid, row.values);
      const value = this.column < 0 ? null : row.values[this.column]!;
      if (this.column >= 0 && values.has(value)) push(this.byValue, value, row.values);
    };
    for (const rows of live)
      for (const row of isReread(rows) ? this.likely(rows, cut, values) : rows) keep(row);
    for (const row of this.likelyFreed(whole, rowids, values)) keep(row);
    this.keepByText(cut, live, whole);
  }

  /** Whole freed rows that a cut one may be a part of, the others undecoded. */
  private *likelyFreed(
    freed: FreedRows,
    rowids: ReadonlySet<number | bigint>,
    values: ReadonlySet<SqlValue | undefined>
  ): Generator<FreedRow> {
    const stored = this.table.order.indexOf(this.column);
    const cursor = new RecordCursor();
    const { whole, encoding } = freed;
    for (const at of freed.indexes) {
      const number = whole.number(at);
      const isNamed = number !== null && rowids.has(number);
      const isRead = stored >= 0 && whole.point(cursor, at) && stored < cursor.count;
      if (isNamed || !isRead || values.has(cursor.value(stored, encoding))) yield whole.row(at);
    }
  }

  /** Rows of a large table that a cut one may be a part of: all are looked at only for those that lost their number. */
  private *likely(
    live: LargeRows,
    cut: readonly FreedRow[],
    values: ReadonlySet<SqlValue | undefined>
  ): Generator<LiveRow> {
    for (const { rowid } of cut) {
      const row = typeof rowid === 'number' ? live.numbered(rowid) : undefined;
      if (row) yield row;
    }
    if (this.column < 0 || cut.every(({ rowid }) => rowid !== null)) return;
    const stored = this.table.order.indexOf(this.column);
    if (stored < 0) yield* live;
    else yield* live.holding(stored, (value) => values.has(value));
  }

  /** Takes note of rows that a cut one without number and telling value is a part of, by what is left of its text. */
  private keepByText(cut: readonly FreedRow[], live: readonly LiveRows[], whole: FreedRows): void {
    const bare = new Map<string, FreedRow[]>();
    const columns = new Set<number>();
    for (const row of cut) {
      const isNameless = this.column < 0 || row.lost.includes(this.column);
      const column = isNameless && row.rowid === null ? textOf(row) : -1;
      const text = row.values[column];
      if (typeof text !== 'string' || text.length < FIRST_LETTERS) continue;
      columns.add(column);
      const key = beginning(column, text);
      bare.set(key, [...(bare.get(key) ?? []), row]);
    }
    for (const column of columns) {
      const of = (value: SqlValue | undefined): readonly FreedRow[] =>
        typeof value === 'string' ? (bare.get(beginning(column, value)) ?? []) : [];
      const stored = this.table.order.indexOf(column);
      const likely = live.map((rows) =>
        isReread(rows) ? rows.holding(stored, (value) => of(value).length > 0) : rows
      );
      for (const rows of [...likely, whole])
        for (const { values } of rows)
          for (const row of of(values[column]))
            if (isCopied(row, values, this.table)) this.known.add(row);
    }
  }

  holds(row: FreedRow): boolean {
    if (this.known.has(row)) return true;
    const value =
      this.column < 0 || row.lost.includes(this.column) ? undefined : row.values[this.column];
    const byValue = value === undefined ? [] : (this.byValue.get(value) ?? []);
    const byRowid = row.rowid === null ? [] : (this.byRowid.get(row.rowid) ?? []);
    return [...byValue, ...byRowid].some((whole) => isCopied(row, whole, this.table));
  }
}

function firstValues(live: readonly LiveRows[], whole: FreedRows): SqlValue[][] {
  const out: SqlValue[][] = [];
  for (const rows of [...live.map(sampleOf), whole]) {
    for (const { values } of rows) {
      if (out.length >= SAMPLE) return out;
      out.push(values);
    }
  }
  return out;
}

/** Index of the column that stands for the row number, or -1. */
function rowidColumn(table: TableSchema): number {
  return table.columns.findIndex((column) => column.isRowid);
}

function push<K>(map: Map<K, SqlValue[][]>, key: K, values: SqlValue[]): void {
  const list = map.get(key);
  if (list) list.push(values);
  else map.set(key, [values]);
}

/** Characters in which two texts must begin alike to be one that was cut. */
const ALIKE = 12;

/**
 * Whether a cut row is a copy of a whole one. What stands before the cut must
 * be the same. The text may end in what was written over it, and what stands
 * behind it may be that alone.
 */
function isCopied(row: FreedRow, whole: SqlValue[], { order, columns }: TableSchema): boolean {
  for (const column of order) {
    const value = row.values[column]!;
    if (columns[column]!.isRowid || row.lost.includes(column)) {
      if (row.cut?.column !== column) continue;
      return beginsAlike(value, whole[column]!);
    }
    if (!sameValue(value, whole[column]!)) return false;
  }
  return true;
}

function beginsAlike(cut: SqlValue, whole: SqlValue): boolean {
  if (typeof cut !== 'string' || typeof whole !== 'string') return false;
  const length = Math.min(cut.length, ALIKE);
  return length > 0 && cut.slice(0, length) === whole.slice(0, length);
}

function isPartOf(row: FreedRow, whole: SqlValue[], rowid: number): boolean {
  return row.values.every((value, i) => {
    if (i === rowid && row.rowid === null) return true;
    if (row.cut?.column === i) {
      const text = whole[i];
      return typeof text === 'string' && typeof value === 'string' && text.startsWith(value);
    }
    return row.lost.includes(i) || sameValue(value, whole[i]!);
  });
}

function sameValue(a: SqlValue, b: SqlValue): boolean {
  if (a instanceof Uint8Array && b instanceof Uint8Array) {
    return a.length === b.length && a.every((byte, i) => byte === b[i]);
  }
  return a === b;
}

const SAMPLE = 2000;
/** Letters by which texts are found; a shorter rest tells nothing. */
const FIRST_LETTERS = 4;

/**
 * The column with the most different values; -1 when there are no rows. The
 * row number does not serve, for freed rows often lack it, nor does text,
 * which is what is cut.
 */
function mostTelling(table: TableSchema, sample: SqlValue[][]): number {
  let best = -1;
  let most = 1;
  table.columns.forEach((column, i) => {
    if (column.isRowid || column.affinity === 'text') return;
    const different = new Set(sample.map((values) => values[i])).size;
    if (different > most) {
      most = different;
      best = i;
    }
  });
  return best;
}

/** The text by which a row is best found: the one that was cut, else the longest that is left; -1 where there is none. */
function textOf({ cut, values, lost }: FreedRow): number {
  if (cut) return cut.column;
  let best = -1;
  let length = 0;
  for (const [column, value] of values.entries()) {
    if (typeof value !== 'string' || value.length <= length || lost.includes(column)) continue;
    best = column;
    length = value.length;
  }
  return best;
}

function beginning(column: number, text: string): string {
  return `${column} ${text.slice(0, FIRST_LETTERS)}`;
}

/** Two cut copies of one row: the longer one stays. */
function joinCut(rows: FreedRow[], rowid: number): FreedRow[] {
  const kept: FreedRow[] = [];
  const ordered = [...rows].sort(
    (a, b) => a.lost.length - b.lost.length || lostBytes(a) - lostBytes(b)
  );
  for (const row of ordered) {
    const twin = kept.find(
      (other) => isPartOf(row, other.values, rowid) || agreesWhereKnown(row, other, rowid)
    );
    if (twin) absorb(twin, row);
    else kept.push(row);
  }
  return kept;
}

function lostBytes(row: FreedRow): number {
  return row.cut?.bytes ?? 0;
}

function agreesWhereKnown(row: FreedRow, other: FreedRow, rowid: number): boolean {
  return row.values.every((value, i) => {
    if (i === rowid && (row.rowid === null || other.rowid === null)) return true;
    const longer = other.values[i]!;
    if (row.cut?.column === i)
      return typeof longer === 'string' && longer.startsWith(String(value));
    return row.lost.includes(i) || other.lost.includes(i) || sameValue(value, longer);
  });
}
