import assert from 'node:assert/strict';
import { test } from 'node:test';
import { messageJson, type Message } from '../records';
import { CHAT_SCHEMAS, talk } from '../tests/chat-schemas';
import { makeDatabase } from '../tests/databases';
import { HANDLE_CHAT_SCHEMA, insertChats } from '../tests/handle-chat';
import { passOver, type PassResult } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const STORES: [name: string, after: string, pragmas: string][] = [
  ['single deletions', 'DELETE FROM sms WHERE _id % 5 = 0', ''],
  ['a long range', 'DELETE FROM sms WHERE _id < 500', ''],
  ['edits', "UPDATE sms SET body = 'now ' || body WHERE _id % 7 = 0", ''],
  ['small pages', 'DELETE FROM sms WHERE _id % 3 = 0', 'PRAGMA page_size=512;'],
  ['wide text', 'DELETE FROM sms WHERE _id % 4 = 0', "PRAGMA encoding='UTF-16le';"]
];

/** What a message says and where it was read; of what was recovered without the support, which is judged from a sample. */
function told(message: Message): string {
  return messageJson(
    message.state === 'live' ? message : { ...message, certainty: 0, reasons: [] }
  );
}

async function tellsTheSame(bytes: Uint8Array, mostHeld = 100): Promise<void> {
  const held = await passOver({ 'a.db': bytes });
  const streamed = await passOver({ 'a.db': bytes }, { mostHeld });
  assert.deepEqual(
    streamed.findings.messages.map(told).sort(),
    held.findings.messages.map(told).sort()
  );
  assert.deepEqual(streamed.findings.stores, held.findings.stores);
  assert.deepEqual(streamed.findings.gaps, held.findings.gaps);
  assert.deepEqual(byId(streamed.findings.threads), byId(held.findings.threads));
  await writesTheSame(bytes, mostHeld, streamed);
}

function byId<T extends { id: string }>(records: readonly T[]): T[] {
  return [...records].sort((a, b) => (a.id < b.id ? -1 : 1));
}

/** Records that leave as JSON straight from the rows' bytes say what the messages say. */
async function writesTheSame(
  bytes: Uint8Array,
  mostHeld: number,
  streamed: PassResult
): Promise<void> {
  const frame = { before: '{"record":"message",', after: '\n' };
  const written = await passOver({ 'a.db': bytes }, { mostHeld, frame });
  const records = written.events.flatMap((event) => {
    if (event.type !== 'json') return [];
    const lines = Buffer.concat(event.records.map(({ bytes }) => bytes))
      .toString()
      .trimEnd()
      .split('\n');
    assert.equal(lines.length, event.count);
    return lines.map((line) => line.replace('"record":"message",', ''));
  });
  assert.deepEqual(records.sort(), streamed.findings.messages.map(messageJson).sort());
  const { stores, gaps, threads, people } = streamed.findings;
  assert.deepEqual(written.findings.stores, stores);
  assert.deepEqual(written.findings.gaps, gaps);
  assert.deepEqual(byId(written.findings.threads), byId(threads));
  assert.deepEqual(byId(written.findings.people), byId(people));
}

for (const [name, after, pragmas] of STORES) {
  test(`rows that are read again tell the same as those that are held: ${name}`, async () => {
    const bytes = makeDatabase((db) => {
      db.run(TELEPHONY_SCHEMA);
      insertMessages(db, messages(900, seeded(11)));
      db.run(after);
    }, pragmas);
    await tellsTheSame(bytes);
  });
}

test('rows that are read again tell the same: quotes, line ends, other scripts, empty and malformed texts', async () => {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(700, seeded(3)));
    db.run(`UPDATE sms SET body = CASE _id % 7 WHEN 0 THEN 'she said "no\\" and' || char(10) || 'left'
      WHEN 1 THEN 'приплыли 🛶 ' || body WHEN 2 THEN '' WHEN 3 THEN CAST(x'c3287a' AS TEXT) || body
      WHEN 4 THEN char(1) || body ELSE body END, subject = CASE _id % 50 WHEN 9 THEN 'tide' END`);
    db.run('VACUUM');
    db.run('DELETE FROM sms WHERE _id % 5 = 0');
  });
  await tellsTheSame(bytes);
});

/** Of ten messages one reacts to another, one answers another; some of those that they name are gone. */
const REFERENCES = `
ALTER TABLE message ADD COLUMN associated_message_guid TEXT;
ALTER TABLE message ADD COLUMN associated_message_type INTEGER DEFAULT 0;
ALTER TABLE message ADD COLUMN thread_originator_guid TEXT;
UPDATE message SET associated_message_type = 2000 + ROWID % 3,
  associated_message_guid = 'p:0/' || (SELECT guid FROM message m WHERE m.ROWID = message.ROWID * 7 % 600 + 1)
  WHERE ROWID % 10 = 3;
UPDATE message SET thread_originator_guid = (SELECT guid FROM message m WHERE m.ROWID = message.ROWID * 11 % 600 + 1)
  WHERE ROWID % 10 = 4;
DELETE FROM chat_message_join WHERE message_id % 6 = 1;
DELETE FROM message WHERE ROWID % 6 = 1;
`;

test('rows that are read again tell the same: reactions, answers, tables that join', async () => {
  const bytes = makeDatabase((db) => {
    db.run(HANDLE_CHAT_SCHEMA);
    insertChats(db, messages(600, seeded(5)));
    db.run(REFERENCES);
  });
  // Enough rows in the sample to know the entries of an index by.
  await tellsTheSame(bytes, 400);
});

/** Numbers are given again in another chat; messages are in two chats, in none, or in one that has no number. */
const JOINS = `
DELETE FROM chat_message_join WHERE message_id % 5 = 1;
DELETE FROM message WHERE ROWID % 5 = 1;
INSERT INTO message(ROWID, guid, text, handle_id, service, date, is_from_me)
  SELECT ROWID - 1, guid || '-new', 'again: ' || text, handle_id, service, date + 7000000, 1 - is_from_me
  FROM message WHERE ROWID % 10 = 2;
INSERT INTO chat_message_join SELECT 1 + ROWID % 4, ROWID, date FROM message WHERE ROWID % 10 = 1;
INSERT INTO chat_message_join SELECT 1 + (chat_id + 1) % 4, message_id, message_date FROM chat_message_join WHERE message_id % 50 = 3;
DELETE FROM chat_message_join WHERE message_id % 50 = 4;
UPDATE chat_message_join SET chat_id = 'x' || chat_id WHERE message_id % 50 = 5;
`;

test('rows that are read again tell the same: joined rows of which some share a number, have several links or none', async () => {
  const bytes = makeDatabase((db) => {
    db.run(HANDLE_CHAT_SCHEMA);
    insertChats(db, messages(1500, seeded(8)));
    db.run(JOINS);
  });
  await tellsTheSame(bytes, 400);
});

for (const { label, make } of CHAT_SCHEMAS) {
  test(`rows that are read again tell the same: unknown tables, ${label}`, async () => {
    await tellsTheSame(make(talk(3, 400)));
  });
}
