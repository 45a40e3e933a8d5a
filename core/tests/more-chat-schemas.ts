import type { Database as SqlJs } from 'sql.js';
import { ROOMS, type Said } from './chat-schemas';
import { makeDatabase } from './databases';

/** A store whose people have names, with the statement that deletes a message of the given place. */
export interface NamedSchema {
  label: string;
  /** Whether every other party's name is kept. */
  isNamed: boolean;
  make: (said: Said[], deleted: ReadonlySet<number>) => Uint8Array;
}

export const NAMES = [
  'Owner Self',
  'Tilda Kvist',
  'Ansel Roy',
  'Birk Nor',
  'Corin Dale',
  'Dagny Eld'
];

const handle = (who: number): string => `u-${(who * 7919 + 10007).toString(16)}-${who}c4e`;
const number = (who: number): string => `+4790000${100 + who}`;
const roomId = (room: number): string => `r-${(room * 104729 + 7).toString(16)}-chat`;
const isGroup = (room: number): boolean => ROOMS[room]!.length > 1;
const peer = (room: number): number => ROOMS[room]![0]!;

type Fill = (db: SqlJs, said: Said[]) => void;

function named(
  label: string,
  isNamed: boolean,
  sql: string,
  remove: string[],
  fill: Fill
): NamedSchema {
  return {
    label,
    isNamed,
    make: (said, deleted) =>
      makeDatabase((db) => {
        db.run('PRAGMA secure_delete = 0');
        db.run(sql);
        db.run('BEGIN');
        fill(db, said);
        db.run('COMMIT');
        for (const i of deleted) for (const statement of remove) db.run(statement, [i + 1]);
      })
  };
}

/** A field of a number with its bytes, and a number kept as such. */
function tagged(field: number, value: Uint8Array | number): Uint8Array {
  if (typeof value === 'number') return Uint8Array.of(field << 3, value & 0x7f);
  const length =
    value.length < 128 ? [value.length] : [(value.length & 127) | 128, value.length >> 7];
  return Uint8Array.of((field << 3) | 2, ...length, ...value);
}

function joined(...parts: Uint8Array[]): Uint8Array {
  return Uint8Array.from(parts.flatMap((part) => [...part]));
}

export const NAMED_SCHEMAS: NamedSchema[] = [
  named(
    'text inside numbered fields, writers by handle',
    true,
    `CREATE TABLE friend(handle TEXT PRIMARY KEY, login TEXT, displayName TEXT);
     CREATE TABLE conversation_message(id INTEGER PRIMARY KEY, conversation_id TEXT, content BLOB, created INTEGER, read_at INTEGER, sender_id TEXT, content_type INTEGER);`,
    ['DELETE FROM conversation_message WHERE id=?'],
    (db, said) => {
      for (const who of [1, 2, 3, 4, 5])
        db.run('INSERT INTO friend VALUES(?,?,?)', [handle(who), `user${who}`, NAMES[who]!]);
      said.forEach((s, i) => {
        const text = tagged(1, new TextEncoder().encode(s.text));
        const content = joined(tagged(1, 3), tagged(4, tagged(2, text)), tagged(7, 0));
        db.run('INSERT INTO conversation_message VALUES(?,?,?,?,?,?,1)', [
          i + 1,
          roomId(s.room),
          content,
          s.at,
          s.who === 0 ? null : s.at + 5000,
          handle(s.who)
        ]);
      });
    }
  ),
  named(
    'in groups the text begins with who wrote it',
    true,
    `CREATE TABLE contact(username TEXT PRIMARY KEY, alias TEXT, nickname TEXT);
     CREATE TABLE message(msgId INTEGER PRIMARY KEY, type INT, status INT, isSend INT, createTime INTEGER, talker TEXT, content TEXT, reserved TEXT);`,
    ['DELETE FROM message WHERE msgId=?'],
    (db, said) => {
      for (const who of [1, 2, 3, 4, 5])
        db.run("INSERT INTO contact VALUES(?,'',?)", [handle(who), NAMES[who]!]);
      said.forEach((s, i) => {
        const isNamed = isGroup(s.room) && s.who !== 0;
        db.run('INSERT INTO message VALUES(?,1,?,?,?,?,?,NULL)', [
          i + 1,
          s.who === 0 ? 2 : 3,
          s.who === 0 ? 1 : 0,
          s.at,
          isGroup(s.room) ? `${roomId(s.room)}@room` : handle(peer(s.room)),
          isNamed ? `${handle(s.who)}:\n${s.text}` : s.text
        ]);
      });
    }
  ),
  named(
    'several states of what was sent and one of what came in',
    true,
    `CREATE TABLE contacts(jid TEXT PRIMARY KEY, systemname TEXT);
     CREATE TABLE conversations(uuid TEXT PRIMARY KEY, contactJid TEXT, created INTEGER, mode INTEGER);
     CREATE TABLE messages(uuid TEXT PRIMARY KEY, n INTEGER, conversationUuid TEXT, timeSent INTEGER, counterpart TEXT, trueCounterpart TEXT, body TEXT, encryption INTEGER, status INTEGER, type INTEGER);`,
    ['DELETE FROM messages WHERE n=?'],
    (db, said) => {
      const jid = (who: number): string => `p${who}@host.example`;
      for (const who of [1, 2, 3, 4, 5])
        db.run('INSERT INTO contacts VALUES(?,?)', [jid(who), NAMES[who]!]);
      const place = (room: number): string =>
        isGroup(room) ? `room${room}@muc.example` : jid(peer(room));
      ROOMS.forEach((_, r) =>
        db.run('INSERT INTO conversations VALUES(?,?,1,?)', [roomId(r), place(r), +isGroup(r)])
      );
      said.forEach((s, i) => {
        const own = s.who === 0;
        const from = isGroup(s.room)
          ? `${place(s.room)}/n${s.who}`
          : `${place(s.room)}/phone.a${s.room}`;
        db.run('INSERT INTO messages VALUES(?,?,?,?,?,?,?,0,?,0)', [
          `m${i}-cafe-${i * 31}`,
          i + 1,
          roomId(s.room),
          s.at,
          own ? place(s.room) : from,
          !own && isGroup(s.room) ? jid(s.who) : null,
          s.text,
          own ? [2, 7, 8][i % 3]! : 0
        ]);
      });
    }
  ),
  named(
    'one column of parties beside one of conversations',
    true,
    `CREATE TABLE contactsTable(jid TEXT PRIMARY KEY, display_name TEXT, is_group INTEGER);
     CREATE TABLE messagesTable(id INTEGER PRIMARY KEY, body TEXT, partner_jid TEXT, was_me INTEGER, read_state INTEGER, timestamp INTEGER, bin_id TEXT);`,
    ['DELETE FROM messagesTable WHERE id=?'],
    (db, said) => {
      for (const who of [1, 2, 3, 4, 5])
        db.run('INSERT INTO contactsTable VALUES(?,?,0)', [handle(who), NAMES[who]!]);
      ROOMS.forEach((_, r) => {
        if (isGroup(r))
          db.run('INSERT INTO contactsTable VALUES(?,?,1)', [roomId(r), `Group ${r}`]);
      });
      said.forEach((s, i) => {
        const bin = isGroup(s.room) ? roomId(s.room) : handle(peer(s.room));
        db.run('INSERT INTO messagesTable VALUES(?,?,?,?,?,?,?)', [
          i + 1,
          s.text,
          isGroup(s.room) && s.who !== 0 ? handle(s.who) : bin,
          s.who === 0 ? 1 : 0,
          s.who === 0 ? 500 : 400,
          s.at,
          bin
        ]);
      });
    }
  ),
  named(
    'texts apart from the events that tell when and who',
    true,
    `CREATE TABLE Contact(ContactID INTEGER PRIMARY KEY, Name TEXT, Number TEXT);
     CREATE TABLE ChatInfo(ChatID INTEGER PRIMARY KEY, Name TEXT);
     CREATE TABLE Events(EventID INTEGER PRIMARY KEY, TimeStamp INTEGER, Direction INTEGER, Type INTEGER, ChatID INTEGER, ContactID INTEGER);
     CREATE TABLE Messages(EventID INTEGER PRIMARY KEY, Type INTEGER, Status INTEGER, Subject TEXT, Body TEXT);`,
    ['DELETE FROM Messages WHERE EventID=?', 'DELETE FROM Events WHERE EventID=?'],
    (db, said) => {
      NAMES.forEach((name, who) =>
        db.run('INSERT INTO Contact VALUES(?,?,?)', [who + 1, name, number(who)])
      );
      ROOMS.forEach((_, r) => db.run('INSERT INTO ChatInfo VALUES(?,?)', [r + 1, `Chat ${r}`]));
      said.forEach((s, i) => {
        db.run('INSERT INTO Events VALUES(?,?,?,1,?,?)', [
          i + 1,
          s.at,
          s.who === 0 ? 1 : 0,
          s.room + 1,
          s.who + 1
        ]);
        db.run('INSERT INTO Messages VALUES(?,1,?,NULL,?)', [i + 1, s.who === 0 ? 2 : 0, s.text]);
      });
    }
  ),
  named(
    'the writer as a record, a second time that only what was sent has',
    true,
    `CREATE TABLE users(user_key TEXT PRIMARY KEY, first_name TEXT, name TEXT);
     CREATE TABLE messages(msg INTEGER PRIMARY KEY, thread_key TEXT, text TEXT, sender TEXT, timestamp_ms INTEGER, timestamp_sent_ms INTEGER, source TEXT);`,
    ['DELETE FROM messages WHERE msg=?'],
    (db, said) => {
      NAMES.forEach((name, who) =>
        db.run('INSERT INTO users VALUES(?,?,?)', [handle(who), name.split(' ')[0]!, name])
      );
      said.forEach((s, i) =>
        db.run('INSERT INTO messages VALUES(?,?,?,?,?,?,?)', [
          i + 1,
          roomId(s.room),
          s.text,
          JSON.stringify({ user_key: handle(s.who), name: NAMES[s.who] }),
          s.at,
          s.who === 0 ? s.at : 0,
          ['mobile', 'web', 'desk'][i % 3]!
        ])
      );
    }
  ),
  named(
    'tables called like a known store’s, with other values',
    true,
    `CREATE TABLE recipient(_id INTEGER PRIMARY KEY, phone TEXT, system_display_name TEXT);
     CREATE TABLE sms(_id INTEGER PRIMARY KEY, thread_id INTEGER, address INTEGER, date INTEGER, date_sent INTEGER, date_server INTEGER, read INTEGER, type INTEGER, delivery_receipt_count INTEGER, body TEXT);`,
    ['DELETE FROM sms WHERE _id=?'],
    (db, said) => {
      NAMES.forEach((name, who) =>
        db.run('INSERT INTO recipient VALUES(?,?,?)', [who + 1, number(who), name])
      );
      said.forEach((s, i) =>
        db.run('INSERT INTO sms VALUES(?,?,?,?,?,?,1,?,?,?)', [
          i + 1,
          s.room + 1,
          s.who === 0 ? peer(s.room) + 1 : s.who + 1,
          s.at,
          s.at,
          s.who === 0 ? -1 : s.at + 200,
          s.who === 0 ? 10485783 : 10485780,
          s.who === 0 ? 1 : 0,
          s.text
        ])
      );
    }
  ),
  named(
    'numbers of people that look like times, a field that says whose',
    true,
    `CREATE TABLE friends(_id INTEGER PRIMARY KEY, id INTEGER, name TEXT, status_message TEXT);
     CREATE TABLE chat_logs(_id INTEGER PRIMARY KEY, chat_id INTEGER, user_id INTEGER, message TEXT, created_at INTEGER, v TEXT);`,
    ['DELETE FROM chat_logs WHERE _id=?'],
    (db, said) => {
      const id = (who: number): number => 214_000_000 + who * 7_919_000;
      for (const who of [1, 2, 3, 4, 5])
        db.run('INSERT INTO friends VALUES(?,?,?,?)', [who, id(who), NAMES[who]!, 'at sea']);
      said.forEach((s, i) =>
        db.run('INSERT INTO chat_logs VALUES(?,?,?,?,?,?)', [
          i + 1,
          9_000_000_000 + s.room * 77,
          id(s.who),
          s.text,
          Math.floor(s.at / 1000),
          JSON.stringify({ enc: 26, isMine: s.who === 0, origin: s.who === 0 ? 'WRITE' : 'MSG' })
        ])
      );
    }
  )
];
