import type { Database } from 'sql.js';
import type { Merger, StoredMessage } from './merger';
import { insertRow, keyOf, rowOf, rowsOf, withFreeNumber, type Row } from './rows';

/** Stores with one table for plain and one for multimedia messages. */
export const telephonyMerger: Merger = {
  tables: ['sms', 'threads'],
  list: (db) => [...plain(db), ...multimedia(db)],
  add(from, into, messages) {
    let threads = 0;
    for (const { table, id } of messages) {
      const row = rowOf(from, `SELECT * FROM ${table} WHERE _id = ?`, [id])!;
      const thread = threadFor(into, partnersOf(from, table, row));
      if (thread.isNew) threads++;
      const number = insertRow(into, table, {
        ...withFreeNumber(into, table, '_id', row),
        thread_id: thread.id
      });
      if (table === 'pdu') addParts(from, into, id, number);
    }
    return threads;
  }
};

function plain(db: Database): StoredMessage[] {
  return rowsOf(db, 'SELECT _id, address, date, type, body FROM sms').map((row) => ({
    key: keyOf(['sms', row.address, row.date, row.type, row.body]),
    text: String(row.body ?? ''),
    id: Number(row._id),
    table: 'sms'
  }));
}

function has(db: Database, table: string): boolean {
  return (
    rowOf(db, "SELECT 1 FROM sqlite_schema WHERE type = 'table' AND name = ?", [table]) !== null
  );
}

function multimedia(db: Database): StoredMessage[] {
  if (!has(db, 'pdu')) return [];
  return rowsOf(db, 'SELECT _id, date, msg_box FROM pdu').map((row) => {
    const parts = has(db, 'part')
      ? rowsOf(db, 'SELECT ct, name, text FROM part WHERE mid = ? ORDER BY seq, _id', [row._id!])
      : [];
    const people = addresses(db, row._id!);
    return {
      key: keyOf(['pdu', row.date, row.msg_box, parts, people]),
      text: parts.map(({ text }) => text ?? '').join('') || 'a message with a file',
      id: Number(row._id),
      table: 'pdu'
    };
  });
}

const OWN = 'insert-address-token';

function addresses(db: Database, id: Row[string]): string[] {
  if (!has(db, 'addr')) return [];
  return rowsOf(db, 'SELECT address FROM addr WHERE msg_id = ? ORDER BY address', [id!])
    .map(({ address }) => String(address))
    .filter((address) => address !== OWN);
}

/** With whom a message was exchanged; the thread's own list where the message names nobody. */
function partnersOf(db: Database, table: string, row: Row): string[] {
  if (table === 'sms' && row.address !== null) return [String(row.address)];
  const named = table === 'pdu' ? addresses(db, row._id!) : [];
  if (named.length > 0) return [...new Set(named)];
  const thread = rowOf(db, 'SELECT recipient_ids FROM threads WHERE _id = ?', [row.thread_id!]);
  return recipients(db, thread);
}

function recipients(db: Database, thread: Row | null): string[] {
  const ids = String(thread?.recipient_ids ?? '')
    .split(' ')
    .filter((id) => id !== '');
  return ids.flatMap((id) => {
    const known = rowOf(db, 'SELECT address FROM canonical_addresses WHERE _id = ?', [id]);
    return known ? [String(known.address)] : [];
  });
}

/** The thread of some addresses; made where there is none. */
function threadFor(db: Database, partners: readonly string[]): { id: number; isNew: boolean } {
  const ids = partners.map((address) => addressId(db, address));
  const wanted = [...ids].sort((a, b) => a - b).join(' ');
  for (const { _id, recipient_ids } of rowsOf(db, 'SELECT _id, recipient_ids FROM threads')) {
    const known = String(recipient_ids ?? '')
      .split(' ')
      .map(Number)
      .sort((a, b) => a - b)
      .join(' ');
    if (known === wanted) return { id: Number(_id), isNew: false };
  }
  return { id: insertRow(db, 'threads', { date: 0, recipient_ids: ids.join(' ') }), isNew: true };
}

function addressId(db: Database, address: string): number {
  const known = rowOf(db, 'SELECT _id FROM canonical_addresses WHERE address = ?', [address]);
  return known ? Number(known._id) : insertRow(db, 'canonical_addresses', { address });
}

function addParts(from: Database, into: Database, old: number, number: number): void {
  for (const [table, column] of [
    ['part', 'mid'],
    ['addr', 'msg_id']
  ] as const) {
    if (!has(from, table) || !has(into, table)) continue;
    for (const row of rowsOf(from, `SELECT * FROM ${table} WHERE ${column} = ? ORDER BY _id`, [
      old
    ]))
      insertRow(into, table, { ...withFreeNumber(into, table, '_id', row), [column]: number });
  }
}
