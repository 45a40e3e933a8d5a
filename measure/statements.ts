import { HANDLE_CHAT_SCHEMA, nanoseconds2001 } from '../core/tests/handle-chat';
import { TELEPHONY_SCHEMA, type SentMessage } from '../core/tests/telephony';
import { literal } from './histories';

/** How one kind of store is written: its tables, and the statements for a message. */
export interface Dialect {
  schema: string;
  insert(message: SentMessage): string;
  remove(message: SentMessage): string;
  edit(message: SentMessage, body: string): string;
  /** Tables that are emptied or dropped when all messages go. */
  tables: string[];
}

class Telephony implements Dialect {
  readonly tables: string[] = ['sms', 'threads'];
  private readonly threads = new Map<string, number>();

  constructor(readonly schema = TELEPHONY_SCHEMA) {}

  insert({ id, address, date, type, body }: SentMessage): string {
    let thread = this.threads.get(address);
    let first = '';
    if (thread === undefined) {
      thread = this.threads.size + 1;
      this.threads.set(address, thread);
      first = `INSERT INTO canonical_addresses(address) VALUES(${literal(address)});INSERT INTO threads(recipient_ids) VALUES('${thread}');`;
    }
    return `${first}INSERT INTO sms(_id, thread_id, address, date, date_sent, read, type, body) VALUES(${id},${thread},${literal(address)},${date},${date - 900},1,${type},${literal(body)});`;
  }
  remove({ id }: SentMessage): string {
    return `DELETE FROM sms WHERE _id=${id};`;
  }
  edit({ id }: SentMessage, body: string): string {
    return `UPDATE sms SET body=${literal(body)} WHERE _id=${id};`;
  }
}

class HandleChat implements Dialect {
  readonly schema = HANDLE_CHAT_SCHEMA;
  readonly tables = ['message', 'chat_message_join'];
  private readonly handles = new Map<string, number>();

  insert({ id, address, date, type, body }: SentMessage): string {
    let handle = this.handles.get(address);
    let first = '';
    if (handle === undefined) {
      handle = this.handles.size + 1;
      this.handles.set(address, handle);
      const who = literal(address);
      first = `INSERT INTO handle(id, service) VALUES(${who},'post');INSERT INTO chat(ROWID, guid, style, chat_identifier, display_name) VALUES(${handle},'post;-;${address}',45,${who},'');INSERT INTO chat_handle_join VALUES(${handle},${handle});`;
    }
    const at = nanoseconds2001(date);
    const guid = `${(Math.imul(id, 2654435761) >>> 0).toString(16)}-${id}`;
    return `${first}INSERT INTO message(ROWID, guid, text, handle_id, service, date, date_read, is_from_me, is_read) VALUES(${id},'${guid}',${literal(body)},${handle},'post',${at},0,${type === 2 ? 1 : 0},1);INSERT INTO chat_message_join VALUES(${handle},${id},${at});`;
  }
  remove({ id }: SentMessage): string {
    return `DELETE FROM chat_message_join WHERE message_id=${id};DELETE FROM message WHERE ROWID=${id};`;
  }
  edit({ id }: SentMessage, body: string): string {
    return `UPDATE message SET text=${literal(body)} WHERE ROWID=${id};`;
  }
}

/** A store that no built-in profile knows. */
class Unknown implements Dialect {
  readonly tables = ['entries'];
  readonly schema = `
CREATE TABLE rooms(room_id INTEGER PRIMARY KEY, peer TEXT NOT NULL, opened INTEGER);
CREATE TABLE entries(entry_id INTEGER PRIMARY KEY, room_id INTEGER NOT NULL REFERENCES rooms(room_id), outgoing INTEGER NOT NULL, stamp INTEGER NOT NULL, content TEXT, flags INTEGER DEFAULT 0);
CREATE INDEX entries_by_room ON entries(room_id, stamp);
`;
  private readonly rooms = new Map<string, number>();

  insert({ id, address, date, type, body }: SentMessage): string {
    let room = this.rooms.get(address);
    let first = '';
    if (room === undefined) {
      room = this.rooms.size + 1;
      this.rooms.set(address, room);
      first = `INSERT INTO rooms VALUES(${room},${literal(address)},${date});`;
    }
    return `${first}INSERT INTO entries VALUES(${id},${room},${type === 2 ? 1 : 0},${date},${literal(body)},0);`;
  }
  remove({ id }: SentMessage): string {
    return `DELETE FROM entries WHERE entry_id=${id};`;
  }
  edit({ id }: SentMessage, body: string): string {
    return `UPDATE entries SET content=${literal(body)} WHERE entry_id=${id};`;
  }
}

const TEXT_INDEX = 'CREATE INDEX sms_by_text ON sms(body, date, address);';

export const dialects = {
  telephony: () => new Telephony(),
  'no row numbers': () =>
    new Telephony(
      TELEPHONY_SCHEMA.replace('service_center TEXT);', 'service_center TEXT) WITHOUT ROWID;')
    ),
  'text index': () => new Telephony(TELEPHONY_SCHEMA + TEXT_INDEX),
  'handle–chat': () => new HandleChat(),
  unknown: () => new Unknown()
} satisfies Record<string, () => Dialect>;

export type DialectName = keyof typeof dialects;
