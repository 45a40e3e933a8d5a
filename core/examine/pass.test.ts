import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import { test } from 'node:test';
import { caseFileSchema, fromCaseFile, toCaseFile } from '../records';
import { makeDatabase } from '../tests/databases';
import { passOver, requestFor } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';
import { PauseGate } from '../host';
import { runPass, type PassEvent, type PassRequest } from '.';

const store = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(2000, seeded(2)));
  db.run('DELETE FROM sms WHERE _id % 5 = 0');
});

const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64'
);

test('bad input gets one plain sentence and a note', async () => {
  const cases: [string, Uint8Array, string, RegExp][] = [
    ['empty.db', new Uint8Array(0), 'empty', /is empty/],
    [
      'notes.txt',
      Buffer.from('Dear yard committee,\nthe tea urn …'),
      'not-recognised',
      /is a text file/
    ],
    ['tin.jpg', PNG, 'not-recognised', /is a picture/],
    ['locked.db', randomBytes(16384), 'not-recognised', /look random/],
    ['stub.db', Buffer.from('SQLite format 3\0rest'), 'truncated', /cut off inside its header/],
    ['zeros.db', new Uint8Array(9000), 'not-recognised', /of an unknown kind/],
    [
      'other.db',
      makeDatabase((db) => db.run('CREATE TABLE fish(a, b); INSERT INTO fish VALUES(1,2)')),
      'no-messages',
      /none of its tables fits/
    ],
    ['cut.db', store.subarray(0, store.length / 2), 'truncated', /is cut short: it should hold/]
  ];
  for (const [name, bytes, code, text] of cases) {
    const { source, events } = await passOver({ [name]: bytes });
    const note = source.notes.find((n) => n.code === code);
    assert.ok(note, `${name}: ${JSON.stringify(source.notes)}`);
    assert.match(note.text, text);
    assert.equal(events.at(-1)!.type, 'done');
  }
});

test('a truncated store still gives the lines of the pages that are left', async () => {
  const { findings } = await passOver({ 'cut.db': store.subarray(0, store.length / 2) });
  assert.ok(findings.messages.length > 500);
});

test('companions go with their database and count to its checksums', async () => {
  const { source } = await passOver({ 'a.db': store, 'a.db-wal': new Uint8Array(0) });
  assert.deepEqual(
    source.parts.map((part) => part.path),
    ['a.db', 'a.db-wal']
  );
  assert.equal(source.kind, 'database');
});

test('a folder with a store among other files is read, and the others are mentioned', async () => {
  const { source, findings } = await passOver({
    'x/a.db': store,
    'x/tin.jpg': PNG,
    'readme.txt': Buffer.from('hello')
  });
  assert.equal(findings.messages.length > 1600, true);
  assert.deepEqual(
    source.notes.map((n) => [n.level, n.code]),
    [['info', 'not-recognised']]
  );
});

test('indexed depth reads live rows alone and says so', async () => {
  const { findings } = await passOver({ 'a.db': store }, { depth: 'indexed' });
  assert.equal(findings.stores[0]!.counts.recovered, 0);
  assert.match(findings.stores[0]!.limits.join(' '), /did not search freed space/);
});

test('the reasons why not more are read off the file', async () => {
  const limits = async (sql: string, pragmas = ''): Promise<string> => {
    const bytes = makeDatabase((db) => {
      db.run(TELEPHONY_SCHEMA);
      insertMessages(db, messages(300, seeded(2)));
      db.run(sql);
    }, pragmas);
    return (await passOver({ 'a.db': bytes })).findings.stores[0]!.limits.join(' ');
  };
  assert.match(await limits('DELETE FROM sms WHERE _id % 2 = 0; VACUUM'), /no freed space/);
  assert.match(
    await limits('DELETE FROM sms WHERE _id % 2 = 0', 'PRAGMA secure_delete=ON;'),
    /wiped/
  );
});

function request(extra: Partial<PassRequest>): PassRequest {
  return requestFor({ 'a.db': store }, { early: true, ...extra });
}

test('live lines are reported before freed space is searched', async () => {
  const found: boolean[] = [];
  for await (const event of runPass(request({})))
    if (event.type === 'found') found.push(event.final);
  assert.deepEqual(found, [false, true]);
});

test('progress only goes forward and ends with done', async () => {
  let last = 0;
  let end: PassEvent | null = null;
  for await (const event of runPass(request({}))) {
    if (event.type === 'progress') {
      assert.ok(event.fraction >= last && event.fraction <= 1, `${event.fraction} after ${last}`);
      last = event.fraction;
    }
    end = event;
  }
  assert.equal(end?.type === 'done' && !end.stopped, true);
});

test('a stopped pass ends with done and keeps what it had reported', async () => {
  const stopper = new AbortController();
  const events: PassEvent[] = [];
  for await (const event of runPass(request({ signal: stopper.signal }))) {
    events.push(event);
    if (event.type === 'found') stopper.abort();
  }
  const last = events.at(-1)!;
  assert.ok(last.type === 'done');
  // The signal is honoured between slices of work; a pass this short may already be over.
  assert.equal(events.filter((event) => event.type === 'done').length, 1);
});

test('a closed gate holds the pass until it is opened', async () => {
  const gate = new PauseGate();
  gate.pause();
  let done = false;
  const run = (async () => {
    for await (const event of runPass(request({ gate }))) if (event.type === 'done') done = true;
  })();
  await new Promise((resolve) => setTimeout(resolve, 300));
  assert.equal(done, false);
  gate.resume();
  await run;
  assert.equal(done, true);
});

test('the same bytes give the same ids', async () => {
  const ids = async () => (await passOver({ 'a.db': store })).findings.messages.map((m) => m.id);
  const first = await ids();
  assert.deepEqual(await ids(), first);
  assert.equal(new Set(first).size, first.length);
});

test('a case file keeps to its schema and reads back', async () => {
  const { source, findings } = await passOver({ 'a.db': store });
  const file = toCaseFile([source], findings, [], new Date(0), 'Etc/UTC');
  const parsed = caseFileSchema.parse(JSON.parse(JSON.stringify(file)));
  assert.deepEqual(fromCaseFile(parsed).findings.messages, findings.messages);
});

test('a store that nobody described is read even if all of its messages were deleted', async () => {
  for (const how of ['DELETE FROM talk', 'DELETE FROM talk WHERE id > 3', 'DROP TABLE talk']) {
    const bytes = makeDatabase((db) => {
      db.run(
        'CREATE TABLE talk(id INTEGER PRIMARY KEY, peer TEXT, incoming INTEGER, sent_at INTEGER, content TEXT)'
      );
      for (const { id, address, date, type, body } of messages(300, seeded(12)))
        db.run('INSERT INTO talk VALUES(?, ?, ?, ?, ?)', [
          id,
          address,
          type === 1 ? 1 : 0,
          date,
          body
        ]);
      db.run(how);
    });
    const { findings } = await passOver({ 'app.db': bytes });
    const found = new Map(findings.messages.map((message) => [message.body, message]));
    for (const { body, date, type } of messages(300, seeded(12)).slice(3)) {
      if (!Buffer.from(bytes).includes(body)) continue;
      const message = found.get(body);
      assert.ok(message, `${how}: ${body}`);
      assert.equal(message.state, 'recovered');
      assert.equal(message.sentAt, date);
      assert.equal(message.direction, type === 1 ? 'incoming' : 'outgoing');
    }
    assert.ok(found.size > 200, `${how}: ${found.size}`);
  }
});
