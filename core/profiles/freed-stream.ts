import { hashText, roomFor } from '../host';
import { RecordCursor } from '../sqlite';
import type { MessageReader } from './message';
import { isPlain, plainTime, plainUnique, type PlainRows } from './plain';
import { STEP } from './numbers';
import type { FreedMessages, FreedPart, Judged, PlainSink, SharedFreedStep } from './sink';
import type { StoreRow, TableView } from './tables';
import type { StoreMessage } from './types';

/** A table of a store that is read as a stream. */
export interface Part {
  table: TableView;
  reader: MessageReader;
  /** Participants are those who wrote. */
  collects: boolean;
  plain: PlainRows | null;
}

/** What the freed messages of a store need of the rest of it. */
interface Store {
  read(part: Part, row: StoreRow): StoreMessage[];
  isReactedTo(plain: PlainRows, cursor: RecordCursor): boolean;
  /** Hashes of the names of messages that are reacted to. */
  reactedTo(): Float64Array;
}

/** The freed messages of a store that is read as a stream. */
export class FreedStream implements FreedMessages {
  readonly count: number;
  readonly moments: Float64Array;
  readonly rowids: Float64Array;
  readonly uniques: Float64Array;
  private readonly cursor = new RecordCursor();
  private readonly judged = new Map<MessageReader, Judged>();

  constructor(
    private readonly parts: readonly Part[],
    private readonly store: Store
  ) {
    this.count = parts.reduce((sum, { table }) => sum + table.freedCount, 0);
    this.moments = unknowns(this.count);
    this.rowids = unknowns(this.count);
    this.uniques = unknowns(this.count);
  }

  /** Looks at each message once for what tells it apart. */
  *identify(): Generator<{ done: number; total: number }> {
    let at = 0;
    for (const part of this.parts) {
      for (let i = 0; i < part.table.freedCount; i++) {
        if (at % STEP === 0) yield { done: at, total: this.count };
        this.identifyOne(part, i, at++);
      }
    }
  }

  private identifyOne({ table, reader, plain }: Part, index: number, at: number): void {
    const { moments, rowids, uniques } = this;
    const { freedAsBytes } = table;
    if (plain && freedAsBytes?.point(this.cursor, index) && this.cursor.count === plain.stored) {
      const unique = plainUnique(plain, this.cursor);
      if (!Number.isNaN(unique)) {
        moments[at] = plainTime(plain.sentAt, this.cursor, plain) ?? NaN;
        rowids[at] = freedAsBytes.rowidAt(index);
        uniques[at] = unique ?? NaN;
        return;
      }
    }
    const row = table.freedAt(index);
    const { sentAt, unique } = reader.identity(row);
    moments[at] = sentAt ?? NaN;
    rowids[at] = typeof row.rowid === 'number' ? row.rowid : NaN;
    uniques[at] = unique === null ? NaN : hashText(unique);
  }

  give(index: number, sink: PlainSink): boolean {
    let at = index;
    for (const part of this.parts) {
      const { freedCount } = part.table;
      if (at < freedCount) return this.isGivenFreed(part, at, sink);
      at -= freedCount;
    }
    return false;
  }

  private isGivenFreed({ table, reader, plain }: Part, index: number, sink: PlainSink): boolean {
    const { freedAsBytes } = table;
    const { cursor } = this;
    if (!plain || !freedAsBytes?.point(cursor, index)) return false;
    if (!isPlain(plain, cursor, freedAsBytes.rowidAt(index), true)) return false;
    if (this.store.isReactedTo(plain, cursor)) return false;
    const facts = freedAsBytes.factsAt(index);
    return sink.freed(plain, cursor, { facts, ...this.judgedBy(reader) });
  }

  private judgedBy(reader: MessageReader): Judged {
    let known = this.judged.get(reader);
    if (!known) {
      known = { bounds: reader.bounds(), isLinked: (thread) => reader.isLinked(thread) };
      this.judged.set(reader, known);
    }
    return known;
  }

  *share(indexes: Uint32Array, sink: PlainSink): Generator<SharedFreedStep> {
    let first = 0;
    for (const part of this.parts) {
      const end = first + part.table.freedCount;
      const own = within(indexes, first, end);
      yield* this.sharePart(part, own, first, sink);
      first = end;
    }
  }

  /** `first` is the index of the part's first row among all. */
  private *sharePart(
    { table, reader, plain }: Part,
    indexes: Uint32Array,
    first: number,
    sink: PlainSink
  ): Generator<SharedFreedStep> {
    const { freedAsBytes, schema, large } = table;
    if (!plain || !freedAsBytes || !large) return yield { type: 'own', indexes };
    const { single, others } = split(indexes, (index) => freedAsBytes.isSingle(index - first));
    const freedPart: FreedPart = {
      rows: plain,
      leaves: large,
      schema,
      reactedTo: this.store.reactedTo(),
      packed: () => freedAsBytes.whole.packed(),
      placesOf: (some) => freedAsBytes.placesOf(some.map((index) => index - first)),
      factsAt: (index) => freedAsBytes.factsAt(index - first),
      ...this.judgedBy(reader)
    };
    yield* sink.sharedFreed(freedPart, single);
    yield { type: 'own', indexes: others };
  }

  read(index: number): StoreMessage[] {
    let at = index;
    for (const part of this.parts) {
      const { table } = part;
      if (at < table.freedCount) return this.store.read(part, table.freedAt(at));
      at -= table.freedCount;
    }
    return [];
  }
}

function unknowns(count: number): Float64Array {
  return new Float64Array(roomFor(count * 8)).fill(NaN);
}

/** Those that pass, and the others. */
function split(
  indexes: Uint32Array,
  isSingle: (index: number) => boolean
): { single: Uint32Array; others: Uint32Array } {
  const single = new Uint32Array(indexes.length);
  const others = new Uint32Array(indexes.length);
  let passed = 0;
  for (let i = 0; i < indexes.length; i++) {
    const index = indexes[i]!;
    if (isSingle(index)) single[passed++] = index;
    else others[i - passed] = index;
  }
  return {
    single: single.subarray(0, passed),
    others: others.subarray(0, indexes.length - passed)
  };
}

/** Those of rising indexes that lie from `first` up to `end`. */
function within(indexes: Uint32Array, first: number, end: number): Uint32Array {
  let from = 0;
  while (from < indexes.length && indexes[from]! < first) from++;
  let to = from;
  while (to < indexes.length && indexes[to]! < end) to++;
  return indexes.subarray(from, to);
}
