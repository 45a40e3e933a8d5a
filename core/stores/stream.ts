import { hashText, NumberIndex } from '../bytes';
import {
  RecordCursor,
  type FreedFacts,
  type LargeRows,
  type PackedRows,
  type TableSchema
} from '../sqlite';
import { LeafRows, type PlainPlace } from './leaf-rows';
import type { LiveBounds } from './certainty';
import { MessageReader } from './message';
import { readCalls, readContacts, readNames } from './others';
import { isPlain, plainTime, plainUnique, type PlainRows } from './plain';
import type { ReadingProfile } from './profile';
import { numbersOf, STEP } from './read';
import { react, type PendingReaction } from './reactions';
import type { StoreRow, TableSet, TableView } from './tables';
import type { StoreMessage, StoreReading, StoreThread } from './types';
import { Writers } from './writers';

type Step = { done: number; total: number };

/** What the rows of a table are given with. */
interface Given {
  part: Part;
  large: LargeRows;
  plain: PlainRows;
  sink: PlainSink;
  rows: LeafRows;
}

interface Part {
  table: TableView;
  reader: MessageReader;
  /** Participants are those who wrote. */
  collects: boolean;
  plain: PlainRows | null;
}

/** Takes ordinary rows as they are, where it can. */
export interface PlainSink {
  /** False when the row has to be read as a message, which then comes next. */
  live(rows: PlainRows, cursor: RecordCursor, place: PlainPlace): boolean;
  /** The same for a freed row that has no copies. */
  freed(rows: PlainRows, cursor: RecordCursor, freed: PlainFreed): boolean;
  /** Who writes a table's rows: the sink itself what it is given here, others the rest. */
  shared(rows: PlainRows, leaves: Uint32Array, reactedTo: Float64Array): Iterable<SharedStep>;
  /** The same for freed rows that have no copies. */
  sharedFreed(part: FreedPart, indexes: Uint32Array): Iterable<SharedFreedStep>;
}

/** What is left to do while other threads write the rows of a table. */
export type SharedStep =
  /** Leaves that nobody else wrote. */
  | { type: 'own'; leaves: Uint32Array }
  /** One row, or with `start` null all rows of a leaf, that another thread could not write. */
  | { type: 'left'; page: number; start: number | null }
  | Wait;

/** Nothing goes on before that. */
export interface Wait {
  type: 'wait';
  until: Promise<unknown>;
}

/** What freed rows are held against. */
interface Judged {
  bounds: LiveBounds;
  /** Whether a conversation has live lines. */
  isLinked(thread: StoreThread): boolean;
}

/** What is known of a freed row beside its values. */
export interface PlainFreed extends Judged {
  facts: FreedFacts;
}

/** The freed rows of one table, as other threads can write them. */
export interface FreedPart extends Judged {
  rows: PlainRows;
  schema: TableSchema;
  /** Hashes of the names of messages that are reacted to. */
  reactedTo: Float64Array;
  pick(indexes: Uint32Array): PackedRows;
  factsAt(index: number): FreedFacts;
}

/** What is left to do while other threads write freed rows. */
export type SharedFreedStep =
  /** Rows that nobody else wrote, by their index. */
  { type: 'own'; indexes: Uint32Array } | Wait;

/** Freed messages, read again whenever one is asked for; what tells which are asked for stands in columns. */
export interface FreedMessages {
  readonly count: number;
  /** When each was sent; NaN where that is unknown. */
  readonly moments: Float64Array;
  /** Its row number; NaN where that is unknown. */
  readonly rowids: Float64Array;
  /** A hash of its unique value; NaN where it has none. */
  readonly uniques: Float64Array;
  /** The message, behind its earlier wordings; empty where the row is none. */
  read(index: number): StoreMessage[];
  /** Whether the sink took the row as it is. */
  give(index: number, sink: PlainSink): boolean;
  /** Lets the sink and its helpers write rows that have no copies; what is left to be given or read comes as `own`. */
  share(indexes: Uint32Array, sink: PlainSink): Iterable<SharedFreedStep>;
}

/** A store whose messages are too many to be held: they are read one by one, as often as they are needed. */
export class StoreStream {
  /** Live rows in all. */
  readonly liveCount: number;
  /** Names, by key or unique value, of messages that others answer. */
  readonly asked = new Set<string>();
  private readonly parts: Part[];
  private readonly reactions = new Map<string, PendingReaction[]>();
  private readonly writers = new Writers();
  private readonly cursor = new RecordCursor();
  private freedMessages: FreedMessages | null = null;
  private reactedTo: NumberIndex | null = null;
  private readonly judged = new Map<MessageReader, Judged>();

  constructor(
    private readonly profile: ReadingProfile,
    private readonly tables: TableSet
  ) {
    this.parts = profile.messages.flatMap((mapping) => {
      const table = tables.get(mapping.table);
      if (!table) return [];
      const reader = new MessageReader(mapping, table, tables);
      return [{ table, reader, collects: mapping.thread.collect === true, plain: reader.plain() }];
    });
    this.liveCount = this.parts.reduce((sum, { table }) => sum + table.liveCount, 0);
  }

  /** Everything but the messages. */
  others(): StoreReading {
    const { calls, contacts, names } = this.profile;
    return {
      messages: [],
      calls: (calls ?? []).flatMap((mapping) => readCalls(mapping, this.tables)),
      contacts: (contacts ?? []).flatMap((mapping) => readContacts(mapping, this.tables)),
      names: readNames(names ?? [], this.tables),
      numbered: this.parts.flatMap(({ table }) => numbersOf(table))
    };
  }

  /** Some messages, to see what the store holds. */
  sample(): StoreMessage[] {
    const found: StoreMessage[] = [];
    for (const { table, reader } of this.parts) {
      for (const row of table.sample()) {
        if (found.length >= SAMPLED) return found;
        found.push(...reader.read(row));
      }
    }
    return found;
  }

  /**
   * Goes over all rows once for what one row says of another: reactions,
   * answers, who wrote in a conversation. Has to run before the messages are read.
   */
  *learn(): Generator<Step> {
    const total = this.liveCount;
    let done = 0;
    for (const { table, reader, collects } of this.parts) {
      if (!reader.refersToOthers && !collects) continue;
      for (const rows of [table.live(), table.freed()]) {
        for (const row of rows) {
          if (++done % STEP === 0) yield { done: Math.min(done, total), total };
          this.learnRow(reader, row, collects);
        }
      }
    }
    for (const list of this.reactions.values())
      list.sort((a, b) => (a.reaction.at ?? 0) - (b.reaction.at ?? 0));
  }

  private learnRow(reader: MessageReader, row: StoreRow, collects: boolean): void {
    const { reaction, asks } = reader.references(row);
    if (asks !== null) this.asked.add(asks);
    if (reaction) {
      const list = this.reactions.get(reaction.target);
      if (list) list.push(reaction);
      else this.reactions.set(reaction.target, [reaction]);
    }
    if (!collects) return;
    const parties = reaction ? [reaction.line] : reader.parties(row);
    for (const { thread, sender } of parties) this.writers.add(thread, sender);
  }

  /**
   * The live messages in the order of their tables, with the reactions to
   * them, but those that the sink takes as rows. Yields null now and then.
   */
  *live(sink: PlainSink | null): Generator<StoreMessage | Wait | null> {
    for (const part of this.parts) {
      const { table, plain } = part;
      const { large } = table;
      if (sink && large && plain) yield* this.plainly(part, large, plain, sink);
      else for (const row of table.live()) yield* this.read(part, row);
    }
  }

  private *plainly(
    part: Part,
    large: LargeRows,
    plain: PlainRows,
    sink: PlainSink
  ): Generator<StoreMessage | Wait | null> {
    const rows = new LeafRows(large);
    const given: Given = { part, large, plain, sink, rows };
    for (const step of sink.shared(plain, large.leaves(), this.reactedToHashes())) {
      switch (step.type) {
        case 'own':
          for (const [i, page] of step.leaves.entries()) {
            if (i % PAGES_A_STEP === 0) yield null;
            yield* this.giveLeaf(given, page, null);
          }
          break;
        case 'left':
          yield* this.giveLeaf(given, step.page, step.start);
          break;
        case 'wait':
          yield step;
      }
    }
  }

  /** Gives a leaf's rows, or the one at `start`, to the sink; yields those that it does not take. */
  private *giveLeaf(
    { part, large, plain, sink, rows }: Given,
    number: number,
    start: number | null
  ): Generator<StoreMessage> {
    const page = large.leaf(number);
    if (!page) return;
    if (!rows.open(page)) {
      for (const row of large.rowsOf(page)) yield* this.read(part, part.table.liveRow(row));
      return;
    }
    for (let i = 0; i < rows.count; i++) {
      if (start !== null && rows.start(i) !== start) continue;
      if (rows.point(i) && this.isGiven(plain, rows.cursor, rows.place, sink)) continue;
      yield* this.read(part, part.table.liveRow(large.rowAt(page, rows.start(i))));
    }
  }

  private isGiven(
    plain: PlainRows,
    cursor: RecordCursor,
    place: PlainPlace,
    sink: PlainSink
  ): boolean {
    if (!isPlain(plain, cursor, place.rowid)) return false;
    if (this.reactions.size > 0 && isNamed(plain, cursor, this.reactedToIndex())) return false;
    return sink.live(plain, cursor, place);
  }

  /** Hashes of the names of messages that are reacted to. */
  private reactedToHashes(): Float64Array {
    return Float64Array.from(this.reactions.keys(), hashText);
  }

  private reactedToIndex(): NumberIndex {
    this.reactedTo ??= new NumberIndex(this.reactedToHashes());
    return this.reactedTo;
  }

  private read({ reader, collects }: Part, row: StoreRow): StoreMessage[] {
    const messages = reader.read(row);
    if (collects) for (const { thread } of messages) this.writers.tell(thread);
    if (this.reactions.size > 0) for (const message of messages) this.takeReactions(message);
    return messages;
  }

  private takeReactions(message: StoreMessage): void {
    if (message.unique === null) return;
    for (const pending of this.reactions.get(message.unique) ?? []) {
      const { line, reaction, removed, found } = pending;
      const isLive = message.state === 'live' || message.state === 'held';
      // A freed message is an older form of the live one that has the same name.
      if (!isLive && found === 'live') continue;
      pending.found = isLive ? 'live' : 'freed';
      if (line.state === 'live' || message.state !== 'live') react(message, reaction, removed);
    }
  }

  /** Reactions to messages that did not come: lines of their own. */
  unclaimed(): StoreMessage[] {
    const left = [...this.reactions.values()].flat().filter(({ found }) => !found);
    if (this.parts.some(({ collects }) => collects))
      for (const { line } of left) this.writers.tell(line.thread);
    return left.map(({ line }) => line);
  }

  /** The freed messages; yields while it looks at each once. */
  *freed(): Generator<Step, FreedMessages> {
    if (this.freedMessages) return this.freedMessages;
    const count = this.parts.reduce((sum, { table }) => sum + table.freedCount, 0);
    const column = (): Float64Array => new Float64Array(count).fill(NaN);
    const identities = { moments: column(), rowids: column(), uniques: column() };
    let at = 0;
    for (const part of this.parts) {
      const { table } = part;
      for (let i = 0; i < table.freedCount; i++) {
        if (at % STEP === 0) yield { done: at, total: count };
        this.identify(part, i, at++, identities);
      }
    }
    const read = (index: number): StoreMessage[] => this.readFreed(index);
    const give = (index: number, sink: PlainSink): boolean => this.giveFreed(index, sink);
    const share = (indexes: Uint32Array, sink: PlainSink): Iterable<SharedFreedStep> =>
      this.shareFreed(indexes, sink);
    this.freedMessages = { count, ...identities, read, give, share };
    return this.freedMessages;
  }

  private identify(
    { table, reader, plain }: Part,
    index: number,
    at: number,
    { moments, rowids, uniques }: Pick<FreedMessages, 'moments' | 'rowids' | 'uniques'>
  ): void {
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

  private giveFreed(index: number, sink: PlainSink): boolean {
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
    if (!isPlain(plain, cursor, freedAsBytes.rowidAt(index))) return false;
    if (this.reactions.size > 0 && isNamed(plain, cursor, this.reactedToIndex())) return false;
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

  private *shareFreed(indexes: Uint32Array, sink: PlainSink): Generator<SharedFreedStep> {
    let first = 0;
    for (const part of this.parts) {
      const end = first + part.table.freedCount;
      const own = indexes.filter((index) => index >= first && index < end);
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
    const { freedAsBytes, schema } = table;
    if (!plain || !freedAsBytes) return yield { type: 'own', indexes };
    const single = indexes.filter((index) => freedAsBytes.isSingle(index - first));
    const freedPart: FreedPart = {
      rows: plain,
      schema,
      reactedTo: this.reactedToHashes(),
      pick: (picked) => freedAsBytes.pick(picked.map((index) => index - first)),
      factsAt: (index) => freedAsBytes.factsAt(index - first),
      ...this.judgedBy(reader)
    };
    yield* sink.sharedFreed(freedPart, single);
    const rest = indexes.filter((index) => !freedAsBytes.isSingle(index - first));
    yield { type: 'own', indexes: rest };
  }

  private readFreed(index: number): StoreMessage[] {
    let at = index;
    for (const part of this.parts) {
      const { table } = part;
      if (at < table.freedCount) return this.read(part, table.freedAt(at));
      at -= table.freedCount;
    }
    return [];
  }
}

/** Whether a row's unique value is among the hashes of names, or may be. */
export function isNamed(plain: PlainRows, cursor: RecordCursor, names: NumberIndex): boolean {
  const hash = plainUnique(plain, cursor);
  return hash !== null && (Number.isNaN(hash) || names.find(hash) >= 0);
}

const SAMPLED = 2000;
const PAGES_A_STEP = 128;
