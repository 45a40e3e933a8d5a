import type { Database as SqlJs } from 'sql.js';
import type { SentMessage } from './telephony';

export const HANDLE_CHAT_SCHEMA = `
CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, handle_id INTEGER DEFAULT 0, subject TEXT, attributedBody BLOB, service TEXT, date INTEGER, date_read INTEGER, date_delivered INTEGER, is_from_me INTEGER DEFAULT 0, is_read INTEGER DEFAULT 0, cache_roomnames TEXT);
CREATE TABLE handle (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL, service TEXT NOT NULL, UNIQUE (id, service));
CREATE TABLE chat (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, style INTEGER, chat_identifier TEXT, room_name TEXT, display_name TEXT);
CREATE TABLE chat_message_join (chat_id INTEGER, message_id INTEGER, message_date INTEGER DEFAULT 0, PRIMARY KEY (chat_id, message_id));
CREATE TABLE chat_handle_join (chat_id INTEGER, handle_id INTEGER, UNIQUE(chat_id, handle_id));
CREATE INDEX message_idx_date ON message(date);
`;

const EPOCH_2001 = 978_307_200_000;

/** Nanoseconds since 2001, as text, because they pass 2^53. */
export function nanoseconds2001(at: number): string {
  return String(BigInt(at - EPOCH_2001) * 1_000_000n);
}

/** One chat a correspondent. May be called again to add more. */
export function insertChats(db: SqlJs, list: SentMessage[]): void {
  db.run('BEGIN');
  for (const { id, address, date, type, body } of list) {
    const chat = chatOf(db, address);
    const at = nanoseconds2001(date);
    const guid = `${(Math.imul(id, 2654435761) >>> 0).toString(16)}-${id}`;
    db.run(
      `INSERT INTO message(ROWID, guid, text, handle_id, service, date, date_read, is_from_me, is_read) VALUES(?,?,?,?,'post',${at},0,?,1)`,
      [id, guid, body, chat, type === 2 ? 1 : 0]
    );
    db.run(`INSERT INTO chat_message_join VALUES(${chat}, ${id}, ${at})`);
  }
  db.run('COMMIT');
}

function chatOf(db: SqlJs, address: string): number {
  const found = db.exec('SELECT ROWID FROM handle WHERE id=?', [address])[0]?.values[0]?.[0];
  if (typeof found === 'number') return found;
  db.run("INSERT INTO handle(id, service) VALUES(?, 'post')", [address]);
  const id = Number(db.exec('SELECT last_insert_rowid()')[0]!.values[0]![0]);
  db.run(
    "INSERT INTO chat(ROWID, guid, style, chat_identifier, display_name) VALUES(?,?,45,?,'')",
    [id, `post;-;${address}`, address]
  );
  db.run('INSERT INTO chat_handle_join VALUES(?,?)', [id, id]);
  return id;
}
