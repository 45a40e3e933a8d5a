import { evaluate, holds, type Scope } from './expression';
import type { CallMapping, ContactMapping, Expression, NameField } from './profile';
import { Clocks, judged, keyOf, numberOf, ownColumns, proofsOf, textOf } from './row';
import type { StoreRow, TableSet, TableView } from './tables';
import type { StoreCall, StoreContact } from './types';

/** Reads a table of calls. */
export function readCalls(mapping: CallMapping, tables: TableSet): StoreCall[] {
  const table = tables.get(mapping.table);
  if (!table) return [];
  const scope: Scope = { tables, key: mapping.key };
  const clocks = new Clocks(table, scope);
  const vital = positions(table, [mapping.at.value, mapping.address]);
  const calls = table.rows.map((row): StoreCall => {
    const { state, certainty } = judged(row, vital);
    return {
      key: keyOf(row),
      address: textOf(evaluate(mapping.address, row, scope)),
      name: mapping.name ? textOf(evaluate(mapping.name, row, scope)) : null,
      direction: callDirection(mapping, row, scope),
      at: clocks.time(mapping.at, row),
      seconds: numberOf(evaluate(mapping.seconds, row, scope)),
      state,
      certainty,
      proofs: proofsOf(row)
    };
  });
  return foldCopies(calls, (call) => `${call.at}/${call.address}`).filter(
    (call) => call.state === 'live' || call.at !== null
  );
}

function callDirection(
  { direction, missed }: CallMapping,
  row: StoreRow,
  scope: Scope
): StoreCall['direction'] {
  const value = textOf(evaluate(direction.value, row, scope)) ?? '';
  const found = direction.values[value] ?? direction.otherwise;
  return found === 'incoming' && missed && holds(missed, row, scope) ? 'missed' : found;
}

/** Reads a table of contacts. */
export function readContacts(mapping: ContactMapping, tables: TableSet): StoreContact[] {
  const table = tables.get(mapping.table);
  if (!table) return [];
  const scope: Scope = { tables, key: mapping.key };
  const rows = table.rows.filter(
    (row) => !mapping.only || mapping.only.every((test) => holds(test, row, scope))
  );
  const vital = positions(table, [mapping.name]);
  const texts = (expression: Expression, row: StoreRow): string[] => [
    ...new Set(evaluate(expression, row, scope).map((value) => String(value).trim()))
  ];
  const contacts = rows.map((row): StoreContact => {
    const { state, certainty } = judged(row, vital);
    const one = (e: Expression | undefined): string | null =>
      (e && textOf(evaluate(e, row, scope))) || null;
    return {
      key: keyOf(row),
      name: one(mapping.name),
      phones: texts(mapping.phones, row).filter((text) => text !== ''),
      emails: texts(mapping.emails, row).filter((text) => text !== ''),
      organisation: one(mapping.organisation),
      note: one(mapping.note),
      state,
      certainty,
      proofs: proofsOf(row)
    };
  });
  const told = contacts.filter(
    ({ name, phones, emails, organisation }) =>
      name !== null || organisation !== null || phones.length + emails.length > 0
  );
  return foldCopies(told, (c) => JSON.stringify([c.name, c.phones, c.emails]));
}

/** Copies of what is also live are no deletions; deleted copies of one another are one. */
function foldCopies<T extends { key: string; state: string; proofs: unknown[] }>(
  records: T[],
  identity: (record: T) => string
): T[] {
  const kept: T[] = [];
  const seen = new Map<string, T>();
  for (const record of records) {
    const key = identity(record);
    const twin = seen.get(key);
    if (record.state !== 'live' && twin) twin.proofs.push(...record.proofs);
    else kept.push(record);
    if (!twin) seen.set(key, record);
  }
  return kept;
}

/** Names that a store gives to addresses; the first one of an address stands. */
export function readNames(fields: NameField[], tables: TableSet): Map<string, string> {
  const names = new Map<string, string>();
  for (const { table, address, name } of fields) {
    const view = tables.get(table);
    // Some stores know people by their names alone.
    const isAlone = JSON.stringify(address) === JSON.stringify(name);
    for (const row of view?.rows ?? []) {
      const scope: Scope = { tables, key: 'rowid' };
      const known = textOf(evaluate(address, row, scope));
      const given = textOf(evaluate(name, row, scope))?.trim();
      if (known && given && (isAlone || given !== known) && !names.has(known))
        names.set(known, given);
    }
  }
  return names;
}

function positions(table: TableView, expressions: Expression[]): number[] {
  return ownColumns(expressions)
    .map((name) => table.columnIndex(name))
    .filter((at) => at >= 0);
}
