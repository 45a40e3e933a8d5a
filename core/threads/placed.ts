import { NumberIndex } from '../bytes';

/** What of a message tells whether others are missing beside it. */
export interface PlacedMessage {
  id: string;
  rowid: number | null;
  sentAt: number | null;
  thread: string;
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

  /** Live messages in columns; NaN stands for an unknown moment. */
  addLive(
    table: string,
    rowids: Float64Array,
    moments: Float64Array,
    contexts: Uint32Array,
    threadOf: (context: number) => string
  ): void {
    const placed = this.table(table);
    const threads = new Map<number, number>();
    for (let i = 0; i < rowids.length; i++) {
      const context = contexts[i]!;
      let thread = threads.get(context);
      if (thread === undefined) threads.set(context, (thread = placed.indexOf(threadOf(context))));
      placed.push(rowids[i]!, moments[i]!, thread);
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

class PlacedTable {
  readonly rowids = new Numbers();
  private readonly moments = new Numbers();
  /** Indexes among the names of threads. */
  private readonly threads = new Numbers();
  private readonly names: string[] = [];
  private readonly indexes = new Map<string, number>();
  private readonly ids = new Map<number, string>();
  private index: { places: NumberIndex; size: number } | null = null;
  /** Moments of messages whose row number is lost. */
  readonly nameless: number[] = [];

  add(rowid: number | null, sentAt: number | null, thread: string, id: string | null): void {
    if (rowid === null) {
      if (sentAt !== null) this.nameless.push(sentAt);
      return;
    }
    if (id !== null) this.ids.set(this.rowids.length, id);
    this.push(rowid, sentAt ?? NaN, this.indexOf(thread));
  }

  push(rowid: number, moment: number, thread: number): void {
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

  /** A message with this row number, which one of them has. */
  named(rowid: number, store: string, table: string): PlacedMessage {
    if (this.index?.size !== this.rowids.length)
      this.index = { places: new NumberIndex(this.rowids.values), size: this.rowids.length };
    const place = this.index.places.find(rowid);
    const moment = this.moments.values[place]!;
    return {
      id: this.ids.get(place) ?? `${store}/${table}/${rowid}`,
      rowid,
      sentAt: Number.isNaN(moment) ? null : moment,
      thread: this.names[this.threads.values[place]!]!
    };
  }
}
