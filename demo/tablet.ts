import type { Database } from 'sql.js';
import { GROUPS, type CharacterKey } from './people';
import { addressOf, isGroup, type ScriptLine } from './script';

const SCHEMA = `
CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, replace INTEGER DEFAULT 0, handle_id INTEGER DEFAULT 0, subject TEXT, country TEXT, attributedBody BLOB, version INTEGER DEFAULT 0, type INTEGER DEFAULT 0, service TEXT, date INTEGER, date_read INTEGER, date_delivered INTEGER, is_delivered INTEGER DEFAULT 0, is_from_me INTEGER DEFAULT 0, is_read INTEGER DEFAULT 0, cache_roomnames TEXT, item_type INTEGER DEFAULT 0);
CREATE TABLE handle (ROWID INTEGER PRIMARY KEY AUTOINCREMENT UNIQUE, id TEXT NOT NULL, country TEXT, service TEXT NOT NULL, UNIQUE (id, service));
CREATE TABLE chat (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, style INTEGER, state INTEGER, chat_identifier TEXT, service_name TEXT, room_name TEXT, display_name TEXT);
CREATE TABLE chat_message_join (chat_id INTEGER REFERENCES chat (ROWID) ON DELETE CASCADE, message_id INTEGER REFERENCES message (ROWID) ON DELETE CASCADE, message_date INTEGER DEFAULT 0, PRIMARY KEY (chat_id, message_id));
CREATE TABLE chat_handle_join (chat_id INTEGER REFERENCES chat (ROWID) ON DELETE CASCADE, handle_id INTEGER REFERENCES handle (ROWID) ON DELETE CASCADE, UNIQUE(chat_id, handle_id));
CREATE TABLE attachment (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, created_date INTEGER DEFAULT 0, filename TEXT, uti TEXT, mime_type TEXT, transfer_name TEXT, total_bytes INTEGER DEFAULT 0);
CREATE TABLE message_attachment_join (message_id INTEGER, attachment_id INTEGER, UNIQUE(message_id, attachment_id));
CREATE INDEX message_idx_date ON message(date);
CREATE INDEX message_idx_handle ON message(handle_id, date);
`;

const EPOCH_2001 = 978_307_200_000;

/** Writes the tablet's store, where messages join handles and chats. */
export class TabletStore {
  private readonly handles = new Map<CharacterKey, number>();
  private readonly chats = new Map<string, number>();
  private count = 0;
  private chatCount = 0;

  constructor(private readonly db: Database) {
    db.run('PRAGMA page_size=4096; PRAGMA secure_delete=OFF;');
    db.run(SCHEMA);
  }

  /** Returns the statements that delete the message again. */
  add(line: ScriptLine): string[] {
    const chat = this.chatOf(line.with);
    const group = isGroup(line.with);
    const own = line.by === 'me';
    const writer = own
      ? group
        ? 0
        : this.handleOf(line.with as CharacterKey)
      : this.handleOf(line.by as CharacterKey);
    const id = ++this.count;
    const date = `${BigInt(line.at - EPOCH_2001) * 1_000_000n}`;
    const guid = guidOf(id, line.at);
    this.db.run(
      `INSERT INTO message(guid, text, handle_id, service, date, date_read, is_delivered, is_from_me, is_read, cache_roomnames)
       VALUES(?,?,?,'post',${date},${own ? 0 : date},?,?,1,?)`,
      [guid, line.text, writer, own ? 1 : 0, own ? 1 : 0, group ? `room-${line.with}` : null]
    );
    this.db.run(`INSERT INTO chat_message_join VALUES(${chat}, ${id}, ${date})`);
    return [
      `DELETE FROM chat_message_join WHERE message_id=${id}`,
      `DELETE FROM message WHERE ROWID=${id}`
    ];
  }

  private handleOf(key: CharacterKey): number {
    let handle = this.handles.get(key);
    if (handle === undefined) {
      handle = this.handles.size + 1;
      this.handles.set(key, handle);
      this.db.run("INSERT INTO handle(id, service) VALUES(?, 'post')", [addressOf(key)]);
    }
    return handle;
  }

  private chatOf(key: string): number {
    let chat = this.chats.get(key);
    if (chat !== undefined) return chat;
    chat = ++this.chatCount;
    this.chats.set(key, chat);
    const group = isGroup(key) ? GROUPS[key] : null;
    const identifier = group ? `room-${key}` : addressOf(key as CharacterKey);
    this.db.run(
      "INSERT INTO chat(guid, style, state, chat_identifier, service_name, room_name, display_name) VALUES(?,?,3,?,'post',?,?)",
      [
        `post;${group ? '+' : '-'};${identifier}`,
        group ? 43 : 45,
        identifier,
        group ? identifier : null,
        group?.title ?? ''
      ]
    );
    for (const member of group?.members ?? [key as CharacterKey]) {
      this.db.run('INSERT INTO chat_handle_join VALUES(?, ?)', [chat, this.handleOf(member)]);
    }
    return chat;
  }

  dropChat(key: string): void {
    const chat = this.chats.get(key);
    this.db.run(
      `DELETE FROM message WHERE ROWID IN (SELECT message_id FROM chat_message_join WHERE chat_id=${chat})`
    );
    this.db.run(`DELETE FROM chat_message_join WHERE chat_id=${chat}`);
    this.db.run(`DELETE FROM chat_handle_join WHERE chat_id=${chat}`);
    this.db.run(`DELETE FROM chat WHERE ROWID=${chat}`);
    this.chats.delete(key);
  }
}

function guidOf(n: number, at: number): string {
  const hex = (Math.imul(n, 2654435761) >>> 0).toString(16).padStart(8, '0');
  const low = ((at % 0xffffffff) >>> 0).toString(16).padStart(8, '0');
  return `${hex}-${low.slice(0, 4)}-4${low.slice(4, 7)}-8${hex.slice(1, 4)}-${low}${hex.slice(4)}`.toUpperCase();
}
