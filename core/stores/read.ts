import { readCalls, readContacts, readNames } from './others';
import { MessageReader } from './message';
import type { ReadingProfile } from './profile';
import { foldReactions } from './reactions';
import type { TableSet, TableView } from './tables';
import type { NumberedTable, StoreMessage, StoreReading } from './types';

const STEP = 2000;

/** Reads a store by a profile; yields now and then so that the caller can pause or stop. */
export function* readStore(
  profile: ReadingProfile,
  tables: TableSet
): Generator<{ done: number; total: number }, StoreReading> {
  const messages: StoreMessage[] = [];
  const numbered: NumberedTable[] = [];
  for (const mapping of profile.messages) {
    const table = tables.get(mapping.table);
    if (!table) continue;
    numbered.push(...numbersOf(table));
    const reader = new MessageReader(mapping, table, tables);
    const read: StoreMessage[] = [];
    for (const [i, row] of table.rows.entries()) {
      if (i % STEP === 0) yield { done: i, total: table.rows.length };
      read.push(...reader.read(row));
    }
    const folded = foldReactions(read, reader.reactions);
    if (mapping.thread.collect) collectParticipants(folded);
    messages.push(...folded);
  }
  return {
    messages,
    calls: (profile.calls ?? []).flatMap((mapping) => readCalls(mapping, tables)),
    contacts: (profile.contacts ?? []).flatMap((mapping) => readContacts(mapping, tables)),
    names: readNames(profile.names ?? [], tables),
    numbered
  };
}

/** Whether a profile's messages can be read one by one: what one row says must not depend on all others. */
export function isStreamable({ messages }: ReadingProfile): boolean {
  return (
    messages.length > 0 &&
    messages.every(({ reactionOf, thread }) => reactionOf === undefined && !thread.collect)
  );
}

/** A store that is too large to be held: its freed messages are, the live ones come one by one. */
export interface StreamedReading {
  /** Everything but the live messages. */
  held: StoreReading;
  live(): Generator<StoreMessage>;
  /** Live rows in all. */
  liveCount: number;
  /** Some messages may answer others. */
  hasAnswers: boolean;
  /** Some live messages, to see what the store holds. */
  sample: StoreMessage[];
}

/** Reads a large store; yields now and then so that the caller can pause or stop. */
export function* readStreamed(
  profile: ReadingProfile,
  tables: TableSet
): Generator<{ done: number; total: number }, StreamedReading> {
  const parts = profile.messages.flatMap((mapping) => {
    const table = tables.get(mapping.table);
    return table ? [{ table, reader: new MessageReader(mapping, table, tables) }] : [];
  });
  const messages: StoreMessage[] = [];
  const sample: StoreMessage[] = [];
  const numbered = parts.flatMap(({ table }) => numbersOf(table));
  for (const { table, reader } of parts) {
    for (const row of table.sample()) {
      if (sample.length >= SAMPLED_MESSAGES) break;
      if (row.live) sample.push(...reader.read(row));
    }
    const total = table.freed.length + table.liveCount;
    const rows = table.isLarge ? table.takeFreed() : table.freed;
    let done = 0;
    for (const row of rows) {
      if (done++ % STEP === 0) yield { done, total };
      messages.push(...reader.read(row));
    }
  }
  const held: StoreReading = {
    messages,
    calls: (profile.calls ?? []).flatMap((mapping) => readCalls(mapping, tables)),
    contacts: (profile.contacts ?? []).flatMap((mapping) => readContacts(mapping, tables)),
    names: readNames(profile.names ?? [], tables),
    numbered
  };
  const liveCount = parts.reduce((sum, { table }) => sum + table.liveCount, 0);
  const hasAnswers = profile.messages.some(({ replyTo }) => replyTo !== undefined);
  return { held, sample, liveCount, hasAnswers, live: () => liveMessages(parts) };
}

const SAMPLED_MESSAGES = 2000;

function* liveMessages(
  parts: { table: TableView; reader: MessageReader }[]
): Generator<StoreMessage> {
  for (const { table, reader } of parts) {
    for (const row of table.live()) yield* reader.read(row);
  }
}

/** Row numbers of a table, where it has its own. */
function numbersOf(table: TableView): NumberedTable[] {
  const { schema, lastNumber, method } = table;
  if (method !== null || schema.declaration.withoutRowid) return [];
  return [{ name: schema.name, numbers: table.numbers(), last: lastNumber }];
}

/** Gives each conversation those who wrote in it; where nobody is known, what tells it apart stays. */
function collectParticipants(messages: StoreMessage[]): void {
  const writers = new Map<string, Set<string>>();
  for (const { thread, sender } of messages) {
    const known = writers.get(thread.key) ?? new Set();
    if (sender !== null && sender !== '') known.add(sender);
    writers.set(thread.key, known);
  }
  for (const { thread } of messages) {
    const known = [...writers.get(thread.key)!];
    if (known.length > 0) thread.participants = known;
    else if (thread.title) thread.participants = [thread.title];
  }
}
