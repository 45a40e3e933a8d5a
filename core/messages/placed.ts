import { NumberIndex } from '../host';

/** What of a message tells whether others are missing beside it. */
export interface PlacedMessage {
  id: string;
  rowid: number | null;
  sentAt: number | null;
  thread: string;
}

/** Messages in columns: row number and moment (NaN where unknown), and context of each. */
export interface WrittenColumns {
  rowids: Float64Array;
  moments: Float64Array;
  contexts: Uint32Array;
}

/** The messages of a store by table and row number, kept small: there can be millions. */
export class PlacedMessages {
  private readonly tables = new Map<string, PlacedTable>();

  /** `id` may be null where it follows from the store, the table and the row number. */
  add(
    table: string,
    rowid: number | null,
    sentAt: number | null,
    thread: string,
    id: string | null
  ): void {
    this.table(table).add(rowid, sentAt, thread, id);
  }

  private table(name: string): PlacedTable {
    let placed = this.tables.get(name);
    if (!placed) this.tables.set(name, (placed = new PlacedTable()));
    return placed;
  }

  /** Messages in columns; `idOf` gives the ids that do not follow from store, table and number. */
  addColumns(
    table: string,
    columns: WrittenColumns,
    threadOf: (context: number) => string,
    idOf: ((i: number) => string) | null
  ): void {
    this.table(table).addColumns(columns, threadOf, idOf);
  }

  of(table: string): PlacedTable {
    return this.tables.get(table) ?? new PlacedTable();
  }

  /** Messages found in each thread, those without a row number left out. */
  byThread(): Map<string, number> {
    const found = new Map<string, number>();
    for (const table of this.tables.values()) {
      for (const [thread, count] of table.byThread())
        found.set(thread, (found.get(thread) ?? 0) + count);
    }
    return found;
  }
}

/** A list of numbers that grows, without an object for each. */
class Numbers {
  private room = new Float64Array(256);
  length = 0;

  push(value: number): void {
    this.reserve(1);
    this.room[this.length++] = value;
  }

  append(values: Float64Array): void {
    this.reserve(values.length);
    this.room.set(values, this.length);
    this.length += values.length;
  }

  private reserve(more: number): void {
    if (this.length + more <= this.room.length) return;
    const larger = new Float64Array(Math.max(this.length + more, this.room.length * 2));
    larger.set(this.values);
    this.room = larger;
  }

  get values(): Float64Array {
    return this.room.subarray(0, this.length);
  }
}

/** Ids of messages that were added together, made where they are asked for. */
interface LaterIds {
  /** Place of the first. */
  from: number;
  count: number;
  /** Which of the columns each was, in order; null where each was the one of its place. */
  indexes: Uint32Array | null;
  idOf: (i: number) => string;
}

/** Messages that are looked for without an index. */
const FEW = 24;

class PlacedTable {
  readonly rowids = new Numbers();
  private readonly moments = new Numbers();
  /** Indexes among the names of threads. */
  private readonly threads = new Numbers();
  private readonly names: string[] = [];
  private readonly indexes = new Map<string, number>();
  private readonly ids = new Map<number, string>();
  private readonly laterIds: LaterIds[] = [];
  /** Threads of contexts, by who told them last. */
  private known: { threadOf: (context: number) => string; threads: number[] } | null = null;
  private index: { places: NumberIndex; size: number } | null = null;
  private looked = 0;
  /** Moments of messages whose row number is lost. */
  readonly nameless: number[] = [];

  add(rowid: number | null, sentAt: number | null, thread: string, id: string | null): void {
    if (rowid === null) {
      if (sentAt !== null) this.nameless.push(sentAt);
      return;
    }
    if (id !== null) this.ids.set(this.rowids.length, id);
    this.rowids.push(rowid);
    this.moments.push(sentAt ?? NaN);
    this.threads.push(this.indexOf(thread));
  }

  addColumns(
    columns: WrittenColumns,
    threadOf: (context: number) => string,
    idOf: ((i: number) => string) | null
  ): void {
    const { rowids, moments, contexts, indexes } = this.withNumbers(columns);
    const from = this.rowids.length;
    if (idOf && rowids.length > 0)
      this.laterIds.push({ from, count: rowids.length, indexes, idOf });
    this.rowids.append(rowids);
    this.moments.append(moments);
    this.threads.append(this.threadsOf(contexts, threadOf));
  }

  /** Contexts come again in all columns that share a `threadOf`. */
  private threadsOf(contexts: Uint32Array, threadOf: (context: number) => string): Float64Array {
    if (this.known?.threadOf !== threadOf) this.known = { threadOf, threads: [] };
    const known = this.known.threads;
    const threads = new Float64Array(contexts.length);
    for (let i = 0; i < contexts.length; i++) {
      const context = contexts[i]!;
      threads[i] = known[context] ??= this.indexOf(threadOf(context));
    }
    return threads;
  }

  /** Those whose number is known, with their indexes; of the others only the moment is kept. */
  private withNumbers(columns: WrittenColumns): WrittenColumns & { indexes: Uint32Array | null } {
    const { rowids, moments, contexts } = columns;
    if (!rowids.some(Number.isNaN)) return { ...columns, indexes: null };
    const indexes = new Uint32Array(rowids.length);
    let count = 0;
    for (let i = 0; i < rowids.length; i++) {
      if (!Number.isNaN(rowids[i]!)) indexes[count++] = i;
      else if (!Number.isNaN(moments[i]!)) this.nameless.push(moments[i]!);
    }
    const known = indexes.slice(0, count);
    return {
      rowids: taken(rowids, known),
      moments: taken(moments, known),
      contexts: known.map((i) => contexts[i]!),
      indexes: known
    };
  }

  /** Number of a thread in this table. */
  indexOf(thread: string): number {
    let index = this.indexes.get(thread);
    if (index === undefined) {
      index = this.names.push(thread) - 1;
      this.indexes.set(thread, index);
    }
    return index;
  }

  byThread(): Map<string, number> {
    const counts = new Uint32Array(this.names.length);
    for (const index of this.threads.values) counts[index]!++;
    return new Map(this.names.map((name, i) => [name, counts[i]!]));
  }

  /** Few are looked for one by one; for many an index is worth its making. */
  private placeOf(rowid: number): number {
    const { values } = this.rowids;
    if (this.looked++ < FEW) return values.indexOf(rowid);
    if (this.index?.size !== values.length)
      this.index = { places: new NumberIndex(values), size: values.length };
    return this.index.places.find(rowid);
  }

  /** A message with this row number, which one of them has. */
  named(rowid: number, store: string, table: string): PlacedMessage {
    const place = this.placeOf(rowid);
    const moment = this.moments.values[place]!;
    return {
      id: this.ids.get(place) ?? this.laterId(place) ?? `${store}/${table}/${rowid}`,
      rowid,
      sentAt: Number.isNaN(moment) ? null : moment,
      thread: this.names[this.threads.values[place]!]!
    };
  }

  private laterId(place: number): string | undefined {
    const later = this.laterIds.findLast(({ from }) => from <= place);
    if (!later || place >= later.from + later.count) return undefined;
    const nth = place - later.from;
    return later.idOf(later.indexes ? later.indexes[nth]! : nth);
  }
}

function taken(values: Float64Array, places: Uint32Array): Float64Array {
  const some = new Float64Array(places.length);
  for (let i = 0; i < places.length; i++) some[i] = values[places[i]!]!;
  return some;
}
