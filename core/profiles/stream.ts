import { append, hashText, NumberIndex } from '../host';
import type { LargeRows, RecordCursor } from '../sqlite';
import { FreedStream, type Part } from './freed-stream';
import { LeafRows, type PlainPlace } from './leaf-rows';
import { MessageReader } from './message';
import type { MessageStream } from './message-stream';
import { readCalls, readContacts, readNames } from './others';
import { isNamed, isPlain, type PlainRows } from './plain';
import type { ReadingProfile } from './profile';
import { numbersOf, STEP } from './numbers';
import { type PendingReaction, react } from './reactions';
import type { FreedMessages, PlainSink, Wait } from './sink';
import type { StoreRow, TableSet } from './tables';
import type { StoreMessage, StoreReading, StoreThread } from './types';

type Step = { done: number; total: number };

/** What the rows of a table are given with. */
interface Given {
  part: Part;
  large: LargeRows;
  plain: PlainRows;
  sink: PlainSink;
  rows: LeafRows;
}

/** The messages of a database's tables: read one by one, as often as they are needed. */
export class StoreStream implements MessageStream {
  /** Live rows in all. */
  readonly liveCount: number;
  /** Names, by key or unique value, of messages that others answer. */
  readonly asked = new Set<string>();
  private readonly parts: Part[];
  private readonly reactions = new Map<string, PendingReaction[]>();
  private readonly writers = new Writers();
  private freedMessages: FreedMessages | null = null;
  private reactedTo: NumberIndex | null = null;

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
        append(found, reader.read(row));
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
    for (const step of sink.shared(plain, large, this.reactedToHashes())) {
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
    const page = large.passingLeaf(number);
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
    if (!isPlain(plain, cursor, place.rowid, false) || this.isReactedTo(plain, cursor))
      return false;
    return sink.live(plain, cursor, place);
  }

  /** Hashes of the names of messages that are reacted to. */
  private reactedToHashes(): Float64Array {
    return Float64Array.from(this.reactions.keys(), hashText);
  }

  private isReactedTo(plain: PlainRows, cursor: RecordCursor): boolean {
    if (this.reactions.size === 0) return false;
    this.reactedTo ??= new NumberIndex(this.reactedToHashes());
    return isNamed(plain, cursor, this.reactedTo);
  }

  private read({ reader, collects }: Part, row: StoreRow): StoreMessage[] {
    const messages = reader.read(row);
    if (row.live) for (const { thread } of messages) reader.sawLive(thread);
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
    if (!this.freedMessages) {
      const freed = new FreedStream(this.parts, {
        read: (part, row) => this.read(part, row),
        isReactedTo: (plain, cursor) => this.isReactedTo(plain, cursor),
        reactedTo: () => this.reactedToHashes()
      });
      yield* freed.identify();
      this.freedMessages = freed;
    }
    return this.freedMessages;
  }
}

const SAMPLED = 2000;
const PAGES_A_STEP = 128;

/** Who wrote in each conversation, for stores that keep no list of members. */
export class Writers {
  private readonly byThread = new Map<string, Set<string>>();
  private readonly told = new WeakSet<StoreThread>();

  add({ key }: StoreThread, sender: string | null): void {
    const known = this.byThread.get(key) ?? new Set();
    if (sender !== null && sender !== '') known.add(sender);
    this.byThread.set(key, known);
  }

  /** Makes them the participants; where nobody is known, what tells the conversation apart stays. */
  tell(thread: StoreThread): void {
    if (this.told.has(thread)) return;
    this.told.add(thread);
    const known = [...(this.byThread.get(thread.key) ?? [])];
    if (known.length > 0) thread.participants = known;
    else if (thread.title) thread.participants = [thread.title];
  }
}
