import type { TextEncoding } from '../../bytes';
import type { Database } from '../database';
import { decodeValue, serialSize, type SqlValue } from '../record';
import type { IndexSchema, TableSchema } from '../schema';
import type { Candidate } from './candidate';
import type { IndexEntry } from './index-rows';
import type { FreedRow, RowProof } from './row';

/**
 * Row numbers from freed index entries. A freed table cell usually loses its
 * row number with its first bytes; the entry in an index on a telling column
 * holds it at the end, where it survives.
 */
const SURE = 36;

export class IndexSupport {
  /** For each index: joined column values to row numbers. */
  private readonly entries = new Map<string, Map<string, Set<number | bigint>>>();

  private readonly found: IndexEntry[] = [];

  constructor(
    private readonly database: Database,
    private readonly encoding: TextEncoding
  ) {}

  add(name: string, candidate: Candidate, page: Uint8Array, proof: RowProof): void {
    if (candidate.cut || candidate.overflow !== 0) return;
    const values = entryValues(candidate, page, this.encoding);
    const rowid = values.pop();
    if (typeof rowid !== 'number' && typeof rowid !== 'bigint') return;
    const index = candidate.layout.index;
    // Only an entry of which no byte is a guess may stand for a row by itself.
    if (index && index.columns.length > 1 && candidate.rebuilt === 0 && candidate.score >= SURE)
      this.found.push({ index, values, rowid, score: candidate.score, proof });
    const map = this.entries.get(name) ?? new Map<string, Set<number | bigint>>();
    this.entries.set(name, map);
    const key = keyOf(values);
    const set = map.get(key);
    if (set) set.add(rowid);
    else map.set(key, new Set([rowid]));
  }

  /** Freed entries of a table's indexes on several columns. */
  entriesOf(table: TableSchema): IndexEntry[] {
    return this.found.filter(({ index }) => index.table === table.name);
  }

  /** Gives a row its number when the indexes of its table name one and only one. */
  resolve(row: FreedRow, table: TableSchema): void {
    if (row.rowid !== null || row.lost.length > 0) return;
    for (const index of this.database.indexes) {
      if (index.table !== table.name) continue;
      const rowids = this.lookUp(index, table, row.values);
      if (rowids?.size !== 1) continue;
      const [rowid] = rowids;
      row.rowid = rowid!;
      row.score += 6;
      table.columns.forEach((column, i) => {
        if (column.isRowid) row.values[i] = rowid!;
      });
      return;
    }
  }

  private lookUp(
    index: IndexSchema,
    table: TableSchema,
    values: SqlValue[]
  ): Set<number | bigint> | undefined {
    const key: SqlValue[] = [];
    for (const name of index.columns) {
      const at = table.columns.findIndex((c) => c.name.toLowerCase() === name?.toLowerCase());
      if (at < 0) return undefined;
      key.push(values[at]!);
    }
    return this.entries.get(index.name)?.get(keyOf(key));
  }
}

function entryValues(candidate: Candidate, page: Uint8Array, encoding: TextEncoding): SqlValue[] {
  let at = candidate.bodyStart;
  return candidate.serials.map((serial) => {
    const value = decodeValue(page, at, serial, encoding);
    at += serialSize(serial);
    return value;
  });
}

function keyOf(values: SqlValue[]): string {
  return values
    .map((value) =>
      value instanceof Uint8Array ? `x${value.join(',')}` : `${typeof value}${value}`
    )
    .join('\u0000');
}
