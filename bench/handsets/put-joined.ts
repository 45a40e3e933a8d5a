import type { Database } from 'sql.js';
import type { Merger, StoredMessage } from './merger';
import { insertRow, keyOf, rowOf, rowsOf, withFreeNumber, type Row } from './rows';

/** Stores whose messages join handles and chats. */
export const joinedMerger: Merger = {
  tables: ['message', 'handle', 'chat', 'chat_message_join'],
  list,
  add(from, into, messages) {
    let chats = 0;
    for (const { id } of messages) {
      const row = rowOf(from, 'SELECT ROWID AS ROWID, * FROM message WHERE ROWID = ?', [id])!;
      const handle = handleFor(from, into, row.handle_id!);
      const number = insertRow(into, 'message', {
        ...withFreeNumber(into, 'message', 'ROWID', row),
        handle_id: handle
      });
      const chat = chatFor(from, into, id, handle);
      if (chat === null) continue;
      if (chat.isNew) chats++;
      const join = { chat_id: chat.id, message_id: number, message_date: row.date ?? 0 };
      insertRow(into, 'chat_message_join', join);
    }
    return chats;
  }
};

/** By the number that the message was given when it was made; by what it says where that is missing. */
function list(db: Database): StoredMessage[] {
  const sql = `SELECT m.ROWID AS id, m.guid, CAST(m.date AS TEXT) AS date, m.is_from_me, m.text, h.id AS who
    FROM message m LEFT JOIN handle h ON h.ROWID = m.handle_id`;
  return rowsOf(db, sql).map(({ id, guid, date, is_from_me, text, who }) => ({
    key: keyOf(guid ? [guid] : [date, is_from_me, text, who]),
    text: String(text ?? ''),
    id: Number(id),
    table: 'message'
  }));
}

function handleFor(from: Database, into: Database, id: Row[string]): number {
  const handle = rowOf(from, 'SELECT * FROM handle WHERE ROWID = ?', [id!]);
  if (!handle) return 0;
  const known = rowOf(into, 'SELECT ROWID AS id FROM handle WHERE id = ?', [handle.id!]);
  if (known) return Number(known.id);
  const { ROWID: _, ...rest } = handle;
  return insertRow(into, 'handle', rest);
}

/** The chat that a message stood in; one with its partner where that is not known, none where nobody is. */
function chatFor(
  from: Database,
  into: Database,
  message: number,
  handle: number
): { id: number; isNew: boolean } | null {
  const chat = rowOf(
    from,
    'SELECT c.* FROM chat c JOIN chat_message_join j ON j.chat_id = c.ROWID WHERE j.message_id = ?',
    [message]
  );
  if (!chat) return chatWith(into, handle);
  const known = rowOf(into, 'SELECT ROWID AS id FROM chat WHERE guid = ?', [chat.guid!]);
  if (known) return { id: Number(known.id), isNew: false };
  const { ROWID: old, ...rest } = chat;
  const id = insertRow(into, 'chat', rest);
  for (const { handle_id } of rowsOf(
    from,
    'SELECT handle_id FROM chat_handle_join WHERE chat_id = ?',
    [old!]
  ))
    insertRow(into, 'chat_handle_join', {
      chat_id: id,
      handle_id: handleFor(from, into, handle_id!)
    });
  return { id, isNew: true };
}

/** A message whose join is lost goes into the chat with its partner alone; it is made where there is none. */
function chatWith(into: Database, handle: number): { id: number; isNew: boolean } | null {
  const known = rowOf(
    into,
    `SELECT chat_id AS id FROM chat_handle_join GROUP BY chat_id
     HAVING count(*) = 1 AND max(handle_id) = ?`,
    [handle]
  );
  if (known) return { id: Number(known.id), isNew: false };
  const partner = rowOf(into, 'SELECT * FROM handle WHERE ROWID = ?', [handle]);
  if (!partner) return null;
  const service = partner.service ?? 'post';
  const id = insertRow(into, 'chat', {
    guid: `${String(service)};-;${String(partner.id)}`,
    style: ONE_PARTNER,
    state: 3,
    chat_identifier: partner.id!,
    service_name: service
  });
  insertRow(into, 'chat_handle_join', { chat_id: id, handle_id: handle });
  return { id, isNew: true };
}

/** How the family marks a chat that is no group. */
const ONE_PARTNER = 45;
