import { append } from '../bytes';
import { readCalls, readContacts, readNames } from './others';
import { MessageReader } from './message';
import type { ReadingProfile } from './profile';
import { foldReactions, type PendingReaction } from './reactions';
import { Writers } from './writers';
import type { TableSet, TableView } from './tables';
import type { NumberedTable, StoreMessage, StoreReading } from './types';

export const STEP = 2000;

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
    append(numbered, numbersOf(table));
    const reader = new MessageReader(mapping, table, tables);
    const read: StoreMessage[] = [];
    const reactions: PendingReaction[] = [];
    for (const [i, row] of table.rows.entries()) {
      if (i % STEP === 0) yield { done: i, total: table.rows.length };
      append(read, reader.read(row, reactions));
    }
    const folded = foldReactions(read, reactions);
    if (mapping.thread.collect) collectParticipants(folded);
    append(messages, folded);
  }
  return {
    messages,
    calls: (profile.calls ?? []).flatMap((mapping) => readCalls(mapping, tables)),
    contacts: (profile.contacts ?? []).flatMap((mapping) => readContacts(mapping, tables)),
    names: readNames(profile.names ?? [], tables),
    numbered
  };
}

/** Row numbers of a table, where it has its own. */
export function numbersOf(table: TableView): NumberedTable[] {
  const { schema, lastNumber, method } = table;
  if (method !== null || schema.declaration.withoutRowid) return [];
  return [{ name: schema.name, numbers: table.numbers(), last: lastNumber }];
}

/** Gives each conversation those who wrote in it; where nobody is known, what tells it apart stays. */
function collectParticipants(messages: StoreMessage[]): void {
  const writers = new Writers();
  for (const { thread, sender } of messages) writers.add(thread, sender);
  for (const { thread } of messages) writers.tell(thread);
}
