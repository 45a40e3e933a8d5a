import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Database as SqlJs, SqlValue } from 'sql.js';
import { makeDatabase } from '../../tests/databases';
import { passOver } from '../../tests/pass';
import { isRight, judge } from '../../tests/unknown/judge';
import { talk, type Said, type Talk } from '../../tests/unknown/talk';

/** A make of store that no plan of the corpus describes. */
interface Make {
  label: string;
  addresses: 'mail' | 'phone' | 'handle';
  schema: string;
  fill: (put: Put, t: Talk) => void;
}

type Put = (table: string, ...values: SqlValue[]) => void;

const bytesOf = (text: string): Uint8Array => new Uint8Array(Buffer.from(text));
const addressOf = (t: Talk, who: number): string => t.people[who]!.address;
const peerOf = (t: Talk, { room }: Said): number => t.rooms[room]![0]!;
const isGroup = (t: Talk, { room }: Said): boolean => t.rooms[room]!.length > 1;
const othersOf = (t: Talk, { room, who }: Said): number[] =>
  [0, ...t.rooms[room]!].filter((member) => member !== who);

const MAKES: Make[] = [
  {
    label: 'texts and names as bytes, the texts behind a table of parts',
    addresses: 'mail',
    schema: `CREATE TABLE message(id INTEGER PRIMARY KEY, conv INTEGER, author INTEGER, stamp INTEGER);
      CREATE TABLE message_part(message_id INTEGER, content_id INTEGER, position INTEGER);
      CREATE TABLE content(id INTEGER PRIMARY KEY, kind INTEGER, data BLOB);
      CREATE TABLE person(id INTEGER PRIMARY KEY, name BLOB, mine INTEGER);
      CREATE TABLE conv(id INTEGER PRIMARY KEY, title BLOB)`,
    fill: (put, t) => {
      t.people.forEach(({ name }, i) => put('person', i + 11, bytesOf(name), i === 0 ? 1 : 0));
      t.rooms.forEach((_, i) => put('conv', i + 1, bytesOf(`room ${i}`)));
      for (const { n, room, who, at, text } of t.said) {
        put('message', n + 1, room + 1, who + 11, at);
        put('message_part', n + 1, n + 501, 0);
        put('content', n + 501, 0, bytesOf(text));
      }
    }
  },
  {
    label: 'a list of recipients in a text',
    addresses: 'mail',
    schema:
      'CREATE TABLE item(id INTEGER PRIMARY KEY, fromAddr TEXT, toAddr TEXT, content TEXT, created REAL)',
    fill: (put, t) => {
      for (const said of t.said) {
        const to = othersOf(t, said).map((who) => addressOf(t, who));
        const at = said.at / 1000 - 978_307_200;
        put('item', said.n + 1, addressOf(t, said.who), to.join('; '), said.text, at);
      }
    }
  },
  {
    label: 'a row for each recipient, with the text again',
    addresses: 'phone',
    schema: `CREATE TABLE mail(id INTEGER PRIMARY KEY, conversation TEXT, text TEXT, date INTEGER, outgoing INTEGER);
      CREATE TABLE mail_recipient(id INTEGER PRIMARY KEY, mail_id INTEGER, address TEXT, text TEXT, date INTEGER)`,
    fill: (put, t) => {
      for (const said of t.said) {
        const { n, room, text, at, who } = said;
        put('mail', n + 1, `c${room}`, text, at, who === 0 ? 1 : 0);
        for (const to of othersOf(t, said))
          put('mail_recipient', null, n + 1, addressOf(t, to), text, at);
      }
    }
  },
  {
    label: 'one column for the other party, another for the group',
    addresses: 'handle',
    schema:
      'CREATE TABLE messages(pk INTEGER PRIMARY KEY, buddy TEXT, grp TEXT, speaker TEXT, txt TEXT, ts INTEGER, st INTEGER)',
    fill: (put, t) => {
      for (const said of t.said) {
        const { n, room, who, text, at } = said;
        const peer = isGroup(t, said) ? null : addressOf(t, peerOf(t, said));
        const group = isGroup(t, said) ? `crew${room}` : null;
        const writer = who === 0 ? null : addressOf(t, who);
        put('messages', n + 1, peer, group, writer, text, at * 1000, who === 0 ? 3 + (n % 2) : 1);
      }
    }
  },
  {
    label: 'called like the log of a program, though people write to each other in it',
    addresses: 'mail',
    schema:
      'CREATE TABLE event_log(id INTEGER PRIMARY KEY, level INTEGER, category TEXT, peer TEXT, out INTEGER, entry TEXT, at INTEGER)',
    fill: (put, t) => {
      for (const said of t.said.filter((one) => !isGroup(t, one))) {
        const { n, who, text, at } = said;
        const peer = addressOf(t, peerOf(t, said));
        put('event_log', n + 1, n % 3, 'chat', peer, who === 0 ? 1 : 0, text, at);
      }
    }
  },
  {
    label: 'members in a table, nothing where the owner writes',
    addresses: 'phone',
    schema: `CREATE TABLE msg(_id INTEGER PRIMARY KEY, thread_id INTEGER, sender_address TEXT, body TEXT, sent_at INTEGER);
      CREATE TABLE thread(_id INTEGER PRIMARY KEY, subject TEXT);
      CREATE TABLE thread_member(thread_id INTEGER, address TEXT)`,
    fill: (put, t) => {
      t.rooms.forEach((members, room) => {
        put('thread', room + 1, null);
        for (const who of [0, ...members]) put('thread_member', room + 1, addressOf(t, who));
      });
      for (const { n, room, who, text, at } of t.said)
        put('msg', n + 1, room + 1, who === 0 ? null : addressOf(t, who), text, at);
    }
  },
  {
    label: 'keys of three letters, tables that no usual word names',
    addresses: 'phone',
    schema: `CREATE TABLE folk(fid INTEGER PRIMARY KEY, shown TEXT, digits TEXT);
      CREATE TABLE talks(tid INTEGER PRIMARY KEY, heading TEXT);
      CREATE TABLE sits(tid INTEGER, fid INTEGER);
      CREATE TABLE entry(eid INTEGER PRIMARY KEY, tid INTEGER, author INTEGER, mine INTEGER, written_at INTEGER, words TEXT, answers INTEGER)`,
    fill: (put, t) => {
      t.people.forEach(({ name, address }, i) => put('folk', i + 1, name, address));
      t.rooms.forEach((members, i) => {
        put('talks', i + 1, members.length > 1 ? `crew ${i}` : null);
        for (const who of [0, ...members]) put('sits', i + 1, who + 1);
      });
      for (const { n, room, who, at, text } of t.said)
        put('entry', n + 1, room + 1, who + 1, who === 0 ? 1 : 0, at, text, n % 7 ? null : n);
    }
  },
  {
    label: 'numbers of people and rooms under names of their own, declared',
    addresses: 'mail',
    schema: `CREATE TABLE p(n INTEGER PRIMARY KEY, called TEXT, at TEXT);
      CREATE TABLE g(n INTEGER PRIMARY KEY, called TEXT);
      CREATE TABLE pg(p INTEGER REFERENCES p(n), g INTEGER REFERENCES g(n));
      CREATE TABLE m(n INTEGER PRIMARY KEY, g INTEGER REFERENCES g(n), p INTEGER REFERENCES p(n), t INTEGER, x TEXT)`,
    fill: (put, t) => {
      t.people.forEach(({ name, address }, i) => put('p', i + 1, name, address));
      t.rooms.forEach((members, i) => {
        put('g', i + 1, `room ${i}`);
        for (const who of [0, ...members]) put('pg', who + 1, i + 1);
      });
      for (const { n, room, who, at, text } of t.said) put('m', n + 1, room + 1, who + 1, at, text);
    }
  },
  {
    label: 'who wrote and where by the names of other things, no members',
    addresses: 'handle',
    schema: `CREATE TABLE crew(crew_no INTEGER PRIMARY KEY, handle TEXT, display TEXT);
      CREATE TABLE berth(berth_no INTEGER PRIMARY KEY, display TEXT);
      CREATE TABLE note(note_no INTEGER PRIMARY KEY, berth_no INTEGER, crew_no INTEGER, is_own INTEGER, created INTEGER, body TEXT)`,
    fill: (put, t) => {
      t.people.forEach(({ name, address }, i) => put('crew', i + 1, address, name));
      t.rooms.forEach((members, i) =>
        put('berth', i + 1, members.map((who) => t.people[who]!.name).join(', '))
      );
      for (const { n, room, who, at, text } of t.said)
        put('note', n + 1, room + 1, who + 1, who === 0 ? 1 : 0, at / 1000, text);
    }
  }
];

function storeOf({ schema, fill }: Make, t: Talk): Uint8Array {
  return makeDatabase((db: SqlJs) => {
    db.run(schema);
    fill((table, ...values) => {
      db.run(`INSERT INTO ${table} VALUES(${values.map(() => '?').join(',')})`, values);
    }, t);
  });
}

for (const make of MAKES)
  test(`a store of a make that nobody described is read right: ${make.label}`, async () => {
    for (const seed of [5, 6]) {
      const t = talk({ seed, groups: true, addresses: make.addresses });
      const result = await passOver({ 'app/store.db': storeOf(make, t) });
      const kept = /^called like/.test(make.label)
        ? t.said.filter((one) => !isGroup(t, one))
        : t.said;
      const verdict = judge({ live: kept, deleted: [] }, result);
      assert.ok(isRight(verdict), JSON.stringify(verdict));
    }
  });
