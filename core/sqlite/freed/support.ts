import type { TextEncoding } from '../../bytes';
import type { Database } from '../database';
import { indexOf, type LiveRows } from '../live-rows';
import { decodeValue, serialSize, type SqlValue } from '../record';
import type { IndexSchema, TableSchema } from '../schema';
import type { Candidate } from './candidate';
import type { IndexEntry } from './index-rows';
import type { FreedRows } from './freed-rows';
import type { FreedRow, RowProof } from './row';

/**
 * Row numbers from freed index entries. A freed table cell usually loses its
 * row number with its first bytes; the entry in an index on a telling column
 * holds it at the end, where it survives.
 */
const SURE = 36;

/** A freed entry of the index of that name. */
export interface SupportEntry extends Omit<IndexEntry, 'index'> {
  name: string;
  rebuilt: number;
}

/** What a reading says as an index entry; null where it is not all there. */
export function entryOf(
  candidate: Candidate,
  page: Uint8Array,
  encoding: TextEncoding,
  proof: RowProof
): SupportEntry | null {
  const { layout, rebuilt, score } = candidate;
  if (candidate.cut || candidate.overflow !== 0) return null;
  const values = entryValues(candidate, page, encoding);
  const rowid = values.pop();
  if (typeof rowid !== 'number' && typeof rowid !== 'bigint') return null;
  return { name: layout.name, values, rowid, rebuilt, score, proof };
}

export class IndexSupport {
  /** For each index: joined column values to row numbers. */
  private readonly entries = new Map<string, Map<string, Set<number | bigint>>>();

  private readonly found: IndexEntry[] = [];

  private readonly indexes: ReadonlyMap<string, IndexSchema>;

  constructor(private readonly database: Database) {
    this.indexes = new Map(database.indexes.map((index) => [index.name, index]));
  }

  add({ name, values, rowid, rebuilt, score, proof }: SupportEntry): void {
    const index = this.indexes.get(name);
    // Only an entry of which no byte is a guess may stand for a row by itself.
    if (index && index.columns.length > 1 && rebuilt === 0 && score >= SURE)
      this.found.push({ index, values, rowid, score, proof });
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

  /**
   * Gives complete rows their numbers where the indexes of their table name
   * one and only one, which no live row and no other of them has.
   */
  resolve({ whole }: FreedRows, table: TableSchema, live: LiveRows): void {
    const indexes = this.database.indexes.filter(
      ({ name, table: of }) => of === table.name && this.entries.has(name)
    );
    if (indexes.length === 0) return;
    const known = indexOf(live);
    const named = new Map<number | bigint, number[]>();
    for (let at = 0; at < whole.count; at++) {
      const rowid = whole.number(at) === null ? this.numberOf(whole.row(at), indexes, table) : null;
      if (rowid === null || known.has(rowid)) continue;
      named.set(rowid, [...(named.get(rowid) ?? []), at]);
    }
    const hashes = whole.columns.hash;
    for (const [rowid, rows] of named) {
      if (rows.some((at) => hashes[at] !== hashes[rows[0]!])) continue;
      for (const at of rows) {
        whole.setNumber(at, rowid);
        whole.columns.score[at]! += 6;
      }
    }
  }

  private numberOf(
    { values }: FreedRow,
    indexes: readonly IndexSchema[],
    table: TableSchema
  ): number | bigint | null {
    const found = indexes
      .map((index) => this.lookUp(index, table, values))
      .find((rowids) => rowids?.size === 1);
    return found ? [...found][0]! : null;
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
