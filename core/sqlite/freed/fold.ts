import { indexOf, sampleOf, type LiveIndex, type LiveRows } from '../live-rows';
import type { SqlValue } from '../record';
import type { TableSchema } from '../schema';
import type { FreedRow, RowProof } from './row';

/** Most proofs kept for one row; a log can hold hundreds of copies. */
const MOST_PROOFS = 12;

/**
 * Removes what is no deletion: copies of live rows, whole or cut. Joins
 * copies of one deleted row into one with several proofs.
 */
export function foldRows(table: TableSchema, live: LiveRows, freed: FreedRow[]): FreedRow[] {
  const known = indexOf(live);
  const copies = joinCopies(freed.filter((row) => row.hash !== 0 && !isCopyOf(known, row)));
  const whole = dropReused(copies);
  const cut = freed.filter((row) => row.hash === 0);
  if (cut.length === 0) return whole;
  const anchors = new Anchors(table, live, whole, cut);
  const left = cut.filter((row) => !anchors.holds(row));
  return whole.concat(joinCut(left, rowidColumn(table)));
}

function isCopyOf(known: LiveIndex, { rowid, hash }: FreedRow): boolean {
  return rowid === null ? known.hasHash(hash) : known.hashOf(rowid) === hash;
}

function joinCopies(rows: FreedRow[]): FreedRow[] {
  const byHash = new Map<number, FreedRow[]>();
  // Rows whose number survived come first, so that those without one join them.
  const ordered = [...rows].sort((a, b) => Number(a.rowid === null) - Number(b.rowid === null));
  for (const row of ordered) {
    const same = byHash.get(row.hash);
    if (!same) byHash.set(row.hash, [row]);
    else {
      const twin = same.find((other) => row.rowid === null || other.rowid === row.rowid);
      if (twin) absorb(twin, row);
      else same.push(row);
    }
  }
  return [...byHash.values()].flat();
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
function dropReused(rows: FreedRow[]): FreedRow[] {
  const last = new Map<number, FreedRow>();
  for (const row of rows) {
    if (row.spill === 0) continue;
    const other = last.get(row.spill);
    if (!other || isLater(row, other)) last.set(row.spill, row);
  }
  return rows.filter((row) => row.spill === 0 || last.get(row.spill) === row);
}

function isLater(row: FreedRow, other: FreedRow): boolean {
  if (row.rowid !== null && other.rowid !== null) return row.rowid > other.rowid;
  return row.score > other.score;
}

function samePlace(a: RowProof, b: RowProof): boolean {
  return a.file === b.file && a.offset === b.offset;
}

/** Finds whole rows that a cut one is a part of, by row number or by its most telling value. */
class Anchors {
  private readonly column: number;
  private readonly rowid: number;
  private readonly byValue = new Map<SqlValue, SqlValue[][]>();
  private readonly byRowid = new Map<number | bigint, SqlValue[][]>();

  constructor(table: TableSchema, live: LiveRows, whole: FreedRow[], cut: readonly FreedRow[]) {
    this.rowid = rowidColumn(table);
    this.column = mostTelling(table, firstValues(live, whole));
    const rowids = new Set(cut.map(({ rowid }) => rowid));
    const values = new Set(cut.map((row) => (this.column < 0 ? null : row.values[this.column])));
    const keep = (row: { rowid: number | bigint | null; values: SqlValue[] }): void => {
      if (row.rowid !== null && rowids.has(row.rowid)) push(this.byRowid, row.rowid, row.values);
      const value = this.column < 0 ? null : row.values[this.column]!;
      if (this.column >= 0 && values.has(value)) push(this.byValue, value, row.values);
    };
    for (const row of live) keep(row);
    for (const row of whole) keep(row);
  }

  holds(row: FreedRow): boolean {
    const value =
      this.column < 0 || row.lost.includes(this.column) ? undefined : row.values[this.column];
    const byValue = value === undefined ? [] : (this.byValue.get(value) ?? []);
    const byRowid = row.rowid === null ? [] : (this.byRowid.get(row.rowid) ?? []);
    return [...byValue, ...byRowid].some((whole) => isPartOf(row, whole, this.rowid));
  }
}

function firstValues(live: LiveRows, whole: readonly FreedRow[]): SqlValue[][] {
  const out: SqlValue[][] = [];
  for (const rows of [sampleOf(live), whole]) {
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
