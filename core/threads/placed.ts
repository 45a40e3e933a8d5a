import { NumberIndex } from '../bytes';

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
    { rowids, moments, contexts }: WrittenColumns,
    threadOf: (context: number) => string,
    idOf: ((i: number) => string) | null
  ): void {
    const placed = this.table(table);
    const threads = new Map<number, number>();
    for (let i = 0; i < rowids.length; i++) {
      const context = contexts[i]!;
      let thread = threads.get(context);
      if (thread === undefined) threads.set(context, (thread = placed.indexOf(threadOf(context))));
      placed.addOne(rowids[i]!, moments[i]!, thread, idOf && (() => idOf(i)));
    }
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
    if (this.length === this.room.length) {
      const larger = new Float64Array(this.length * 2);
      larger.set(this.room);
      this.room = larger;
    }
    this.room[this.length++] = value;
  }

  get values(): Float64Array {
    return this.room.subarray(0, this.length);
  }
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
  /** Ids, or what gives them where they are asked for. */
  private readonly ids = new Map<number, string | (() => string)>();
  private index: { places: NumberIndex; size: number } | null = null;
  private looked = 0;
  /** Moments of messages whose row number is lost. */
  readonly nameless: number[] = [];

  add(rowid: number | null, sentAt: number | null, thread: string, id: string | null): void {
    const index = rowid === null ? -1 : this.indexOf(thread);
    this.addOne(rowid ?? NaN, sentAt ?? NaN, index, id);
  }

  /** The same with NaN for what is not known, and the number of a thread. */
  addOne(rowid: number, moment: number, thread: number, id: string | (() => string) | null): void {
    if (Number.isNaN(rowid)) {
      if (!Number.isNaN(moment)) this.nameless.push(moment);
      return;
    }
    if (id !== null) this.ids.set(this.rowids.length, id);
    this.rowids.push(rowid);
    this.moments.push(moment);
    this.threads.push(thread);
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
    const id = this.ids.get(place) ?? `${store}/${table}/${rowid}`;
    return {
      id: typeof id === 'string' ? id : id(),
      rowid,
      sentAt: Number.isNaN(moment) ? null : moment,
      thread: this.names[this.threads.values[place]!]!
    };
  }
}
