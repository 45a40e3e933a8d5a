import type { TextEncoding } from '../../host';
import type { Database } from '../read/database';
import { indexOf, type LiveRows } from '../read/live-rows';
import { decodeValue, serialSize, type SqlValue } from '../format/record';
import { RecordCursor } from '../format/record-cursor';
import type { IndexSchema, TableSchema } from '../format/schema';
import type { Candidate } from './candidate';
import type { IndexEntry } from './index-rows';
import type { FreedRows } from './freed-rows';
import type { RowProof } from './row';

/**
 * Row numbers from freed index entries. A freed table cell usually loses its
 * row number with its first bytes; the entry in an index on a telling column
 * holds it at the end, where it survives.
 */
const SURE = 36;

/** A freed entry of the index of that name. */
export interface SupportEntry extends Omit<IndexEntry, 'index' | 'proof'> {
  name: string;
  /** Null where bytes are a guess: such an entry does not stand for a row by itself. */
  proof: RowProof | null;
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
  const isSure = rebuilt === 0 && score >= SURE;
  return { name: layout.name, values, rowid, score, proof: isSure ? proof : null };
}

/** What an index says of rows with the same values: their number, or that there are several. */
type Named = number | bigint | 'several';

/** Where an index's columns stand in a stored record; null where one of them does not. */
interface Place {
  entries: ReadonlyMap<string, Named>;
  columns: number[];
  stored: number[] | null;
}

export class IndexSupport {
  /** For each index: row numbers by joined column values. */
  private readonly entries = new Map<string, Map<string, Named>>();

  private readonly found: IndexEntry[] = [];

  private readonly indexes: ReadonlyMap<string, IndexSchema>;

  constructor(private readonly database: Database) {
    this.indexes = new Map(database.indexes.map((index) => [index.name, index]));
  }

  add({ name, values, rowid, score, proof }: SupportEntry): void {
    const index = this.indexes.get(name);
    if (index && index.columns.length > 1 && proof)
      this.found.push({ index, values, rowid, score, proof });
    let map = this.entries.get(name);
    if (!map) this.entries.set(name, (map = new Map()));
    const key = keyOf(values);
    const known = map.get(key);
    map.set(key, known === undefined || known === rowid ? rowid : 'several');
  }

  /** Freed entries of a table's indexes on several columns. */
  entriesOf(table: TableSchema): IndexEntry[] {
    return this.found.filter(({ index }) => index.table === table.name);
  }

  /**
   * Gives complete rows their numbers where the indexes of their table name
   * one and only one, which no live row and no other of them has.
   */
  resolve({ whole, encoding }: FreedRows, table: TableSchema, live: LiveRows): void {
    const places = this.placesIn(table);
    if (places.length === 0) return;
    const known = indexOf(live);
    const cursor = new RecordCursor();
    const named = new Map<number | bigint, number[]>();
    for (let at = 0; at < whole.count; at++) {
      if (whole.number(at) !== null) continue;
      const isRead = whole.point(cursor, at);
      const keyIn = (place: Place): string =>
        isRead && place.stored?.every((stored) => stored < cursor.count)
          ? keyOf(place.stored.map((stored) => cursor.value(stored, encoding)))
          : keyOf(place.columns.map((column) => whole.row(at).values[column]!));
      const rowid = numberFor(places, keyIn);
      if (rowid === null || known.has(rowid)) continue;
      const rows = named.get(rowid);
      if (rows) rows.push(at);
      else named.set(rowid, [at]);
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

  private placesIn(table: TableSchema): Place[] {
    return this.database.indexes.flatMap(({ name, table: of, columns: names }) => {
      const entries = this.entries.get(name);
      if (of !== table.name || !entries) return [];
      const columns = names.map((column) => columnOf(table, column));
      if (columns.includes(-1)) return [];
      const stored = columns.map((at) =>
        table.columns[at]!.isRowid ? -1 : table.order.indexOf(at)
      );
      return [{ entries, columns, stored: stored.includes(-1) ? null : stored }];
    });
  }
}

/** The number that the first index which names one gives. */
function numberFor(
  places: readonly Place[],
  keyIn: (place: Place) => string
): number | bigint | null {
  for (const place of places) {
    const found = place.entries.get(keyIn(place));
    if (found !== undefined && found !== 'several') return found;
  }
  return null;
}

function columnOf({ columns }: TableSchema, name: string | null): number {
  return columns.findIndex((column) => column.name.toLowerCase() === name?.toLowerCase());
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
