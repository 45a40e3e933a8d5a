import type { Message } from '../records';
import type { PlainRows, RecordCursor, StoreThread } from '../profiles';
import {
  contextHash,
  contextKey,
  Contexts,
  type Context,
  type PackedContext,
  type Shared
} from './contexts';
import type { FoldedMessage } from './fold';

/** What was learned of one table's rows. */
interface Table {
  contexts: Contexts;
  list: Context[];
}

/** A row whose context has to be learned from the message that is made of it. */
interface Waiting extends Pick<Context, 'hash' | 'key' | 'freed'> {
  table: Table;
  file: string;
  offset: number;
}

/** Contexts past which columns tell rows apart instead of conversations. */
const MOST_CONTEXTS = 20_000;

/**
 * What rows mean beside their text and times, learned from the first message
 * of each kind that was made in full.
 */
export class Learned {
  private readonly tables = new Map<PlainRows, Table>();
  private waiting: Waiting | null = null;
  private count = 0;

  /** To be called where a row may come that is not asked about. */
  forget(): void {
    this.waiting = null;
  }

  /** What is known of rows like this one; null where it is not known yet, or such rows are no ordinary messages. */
  meaning(
    rows: PlainRows,
    cursor: RecordCursor,
    freed: boolean,
    { file, offset }: { file: string; offset: number }
  ): Shared | null {
    const table = this.tableOf(rows);
    const known = table.contexts.find(rows, cursor, freed);
    if (known >= 0) return table.list[known]!.shared;
    if (this.count < MOST_CONTEXTS) {
      const hash = contextHash(rows, cursor);
      this.waiting = { table, hash, key: contextKey(rows, cursor), freed, file, offset };
    }
    return null;
  }

  /** Learns from a message that was made in full, where its row was asked for just before. */
  learn(message: FoldedMessage, record: Message): void {
    const { waiting } = this;
    const [proof] = message.proofs;
    if (!waiting || proof?.path !== waiting.file || proof.offset !== waiting.offset) return;
    this.waiting = null;
    this.count++;
    const { table, hash, key, freed } = waiting;
    const index = table.list.length;
    const isOrdinary = message.state === (freed ? 'recovered' : 'live') && saysNoMore(record);
    const shared = isOrdinary
      ? { index, thread: message.thread, context: contextOf(record) }
      : null;
    const context = { index, hash, key, freed, shared };
    table.contexts.add(context);
    table.list.push(context);
  }

  /** Contexts that were learned after the first `told`, in a form that can be handed to another thread. */
  packed(
    rows: PlainRows,
    told: number,
    isLinked: (thread: StoreThread) => boolean
  ): PackedContext[] {
    return this.tableOf(rows)
      .list.slice(told)
      .map(({ index, hash, key, freed, shared }) => ({
        // Named one by one: copies of the rest would have a shape each, which makes them slow to read.
        index,
        hash,
        key,
        freed,
        context: shared?.context ?? null,
        linked: shared !== null && freed && isLinked(shared.thread)
      }));
  }

  /** The conversation of a context that other threads wrote rows of. */
  threadOf(rows: PlainRows, context: number): string {
    return this.tableOf(rows).list[context]!.shared!.context.thread;
  }

  private tableOf(rows: PlainRows): Table {
    let table = this.tables.get(rows);
    if (!table) this.tables.set(rows, (table = { contexts: new Contexts(), list: [] }));
    return table;
  }
}

function saysNoMore({ subject, attachments, replyTo, reactions, location }: Message): boolean {
  return (
    subject === null &&
    replyTo === null &&
    location === null &&
    attachments.length === 0 &&
    reactions.length === 0
  );
}

function contextOf({ thread, sender, direction }: Message): Shared['context'] {
  return { thread, sender, direction };
}
