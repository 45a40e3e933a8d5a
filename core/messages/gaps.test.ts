import assert from 'node:assert/strict';
import { test } from 'node:test';
import { EVERYTHING } from '../examine';
import { makeDatabase } from '../tests/databases';
import { HANDLE_CHAT_SCHEMA, insertChats } from '../tests/handle-chat';
import { passOver } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const COUNTING = TELEPHONY_SCHEMA.replace(
  'sms(_id INTEGER PRIMARY KEY,',
  'sms(_id INTEGER PRIMARY KEY AUTOINCREMENT,'
);

/** A store of forty messages after some statements; what is deleted is wiped. */
function wiped(sql: string, schema = TELEPHONY_SCHEMA): Uint8Array {
  return makeDatabase((db) => {
    db.run(`PRAGMA secure_delete=ON; ${schema}`);
    insertMessages(db, messages(40, seeded(3)));
    db.run(sql);
  });
}

const CASES: [name: string, bytes: () => Uint8Array, counts: number[]][] = [
  ['nothing deleted', () => wiped(''), []],
  ['one in the middle', () => wiped('DELETE FROM sms WHERE _id=7'), [1]],
  ['a run and one', () => wiped('DELETE FROM sms WHERE _id BETWEEN 10 AND 13 OR _id=30'), [4, 1]],
  ['the last, not counted', () => wiped('DELETE FROM sms WHERE _id>35'), []],
  ['the last, counted', () => wiped('DELETE FROM sms WHERE _id>35', COUNTING), [5]],
  ['the first, counted', () => wiped('DELETE FROM sms WHERE _id<4', COUNTING), [3]],
  ['everything, counted', () => wiped('DELETE FROM sms', COUNTING), [40]],
  ['numbers of a server', () => wiped('UPDATE sms SET _id = _id * 100003'), []]
];

for (const [name, bytes, counts] of CASES) {
  test(`gaps by row numbers: ${name}`, async () => {
    const { findings } = await passOver({ 'a.db': bytes() });
    const found = findings.gaps.map(({ count }) => count);
    assert.deepEqual(found, counts);
  });
}

test('a gap says between which lines and moments, and with whom when both neighbours agree', async () => {
  const { findings } = await passOver({ 'a.db': wiped('DELETE FROM sms WHERE _id=7') });
  const [gap] = findings.gaps;
  const [after, before] = ['sms/6', 'sms/8'].map((id) =>
    findings.messages.find((m) => m.id.endsWith(`/${id}`))
  );
  assert.deepEqual([gap!.after, gap!.before], [after!.id, before!.id]);
  assert.deepEqual([gap!.from, gap!.to], [after!.sentAt, before!.sentAt]);
  assert.equal(gap!.thread, after!.thread === before!.thread ? after!.thread : null);
  assert.equal(gap!.reason, 'row number 7 of table sms is missing');
});

test('recovered messages close a gap; narrowing makes none', async () => {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(300, seeded(3)));
    db.run('DELETE FROM sms WHERE _id % 10 = 5');
  });
  const total = (gaps: { count: number }[]): number => gaps.reduce((sum, g) => sum + g.count, 0);
  const open = await passOver({ 'a.db': bytes }, { depth: 'indexed' });
  assert.equal(total(open.findings.gaps), 30);
  const { findings } = await passOver({ 'a.db': bytes });
  const recovered = findings.messages.filter(({ state }) => state === 'recovered').length;
  assert.ok(recovered > 20);
  assert.equal(total(findings.gaps), 30 - recovered);
  const want = { ...EVERYTHING, from: 1_700_000_000_000 + 10 * 61_000 };
  const narrow = await passOver({ 'a.db': bytes }, { depth: 'indexed', want });
  assert.deepEqual(narrow.findings.gaps, []);
});

test('an answer to a message that is not there, and a conversation that counts more than it has', async () => {
  const answers = makeDatabase((db) => {
    db.run(HANDLE_CHAT_SCHEMA.replace('cache_roomnames TEXT', 'thread_originator_guid TEXT'));
    insertChats(db, messages(6, seeded(3)));
    db.run("UPDATE message SET thread_originator_guid='gone' WHERE ROWID IN (3, 4)");
  });
  const one = (await passOver({ 'a.db': answers })).findings.gaps;
  assert.ok(one.length >= 1 && one.every(({ reason }) => /answers message gone/.test(reason)));
  const counted = wiped(
    'ALTER TABLE threads ADD COLUMN message_count INTEGER; UPDATE threads SET message_count = (SELECT count(*) + (threads._id = 2) * 3 FROM sms WHERE thread_id = threads._id)'
  );
  const two = (await passOver({ 'b.db': counted })).findings.gaps;
  assert.deepEqual(
    two.map(({ count }) => count),
    [3]
  );
});
