import type { LiveRow } from '../read/database';
import { isReread, type LargeRows, type LiveRows } from '../read/live-rows';
import type { SqlValue } from '../format/record';
import type { IndexSchema, TableSchema } from '../format/schema';
import type { FreedRow, RowProof } from './row';

/** A freed entry of an index: the values of its columns and the row number that they belong to. */
export interface IndexEntry {
  index: IndexSchema;
  values: SqlValue[];
  rowid: number | bigint;
  score: number;
  proof: RowProof;
}

/** Rows of a large table that have the numbers which entries name. */
function* named(live: LargeRows, entries: readonly IndexEntry[]): Generator<LiveRow> {
  for (const { rowid } of entries) {
    const row = typeof rowid === 'number' ? live.numbered(rowid) : undefined;
    if (row) yield row;
  }
}

/**
 * Rows of which nothing is left but an entry of an index. What the index does
 * not hold is lost; entries of rows that are known otherwise, live or freed,
 * add nothing.
 */
export function rowsFromEntries(
  entries: readonly IndexEntry[],
  table: TableSchema,
  live: LiveRows,
  freed: Iterable<FreedRow>
): FreedRow[] {
  const rows = new Map<string, FreedRow>();
  for (const index of new Set(entries.map((entry) => entry.index))) {
    const group = entries.filter((entry) => entry.index === index);
    const columns = positions(index, table);
    if (!isTelling(columns, table)) continue;
    const open = new Set(group.map(keyOfEntry));
    for (const { values } of isReread(live) ? named(live, group) : live)
      open.delete(keyOf(columns, values));
    for (const { values } of freed) open.delete(keyOf(columns, values));
    for (const entry of group) {
      const key = keyOfEntry(entry);
      if (!open.has(key)) continue;
      const name = `${entry.rowid}\u0000${key}`;
      const same = rows.get(name);
      if (same) same.proofs.push(entry.proof);
      else rows.set(name, rowOf(entry, columns, table));
    }
  }
  return [...rows.values()];
}

function positions({ columns }: IndexSchema, { columns: declared }: TableSchema): number[] {
  return columns.map((name) =>
    declared.findIndex((column) => column.name.toLowerCase() === name?.toLowerCase())
  );
}

/** An entry tells of a row when it holds a text and something beside it. */
function isTelling(columns: readonly number[], table: TableSchema): boolean {
  if (columns.includes(-1) || columns.length < 2) return false;
  return columns.some((at) => table.columns[at]!.affinity === 'text');
}

function keyOf(columns: readonly number[], values: readonly SqlValue[]): string {
  return columns.map((at) => textOf(values[at]!)).join('\u0000');
}

function keyOfEntry({ values }: IndexEntry): string {
  return values.map(textOf).join('\u0000');
}

function textOf(value: SqlValue): string {
  return value instanceof Uint8Array ? `x${value.join(',')}` : `${typeof value}${value}`;
}

function rowOf(entry: IndexEntry, columns: readonly number[], table: TableSchema): FreedRow {
  const values: SqlValue[] = table.columns.map(() => null);
  columns.forEach((at, i) => (values[at] = entry.values[i]!));
  const lost: number[] = [];
  table.columns.forEach((column, at) => {
    if (column.isRowid) values[at] = entry.rowid;
    else if (!columns.includes(at)) lost.push(at);
  });
  return {
    table: table.name,
    rowid: entry.rowid,
    values,
    lost,
    cut: null,
    hash: 0,
    score: entry.score,
    rebuilt: 0,
    spill: 0,
    inferred: false,
    proofs: [entry.proof]
  };
}
