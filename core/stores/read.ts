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

/** Row numbers of a table, where it has its own. */
function numbersOf({ schema, rows, lastNumber, method }: TableView): NumberedTable[] {
  if (method !== null || schema.declaration.withoutRowid) return [];
  const numbers = rows.flatMap(({ rowid }) => (typeof rowid === 'number' ? [rowid] : []));
  return [{ name: schema.name, numbers, last: lastNumber }];
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
