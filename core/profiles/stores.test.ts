import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { passOver } from '../tests/pass';
import { makeDatabase } from '../tests/databases';
import { HANDLE_CHAT_SCHEMA, insertChats, nanoseconds2001 } from '../tests/handle-chat';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';
import { settleClock, toMilliseconds } from './clock';
import type { Clock } from './profile';
import { textOfTypedStream } from './typed-stream';

test('each clock gives the right moment', () => {
  const at = Date.UTC(2026, 2, 12, 7, 55, 12);
  const cases: [Clock, number | bigint][] = [
    ['seconds-1970', at / 1000],
    ['milliseconds-1970', at],
    ['microseconds-1970', at * 1000],
    ['nanoseconds-1970', BigInt(at) * 1_000_000n],
    ['seconds-2001', at / 1000 - 978_307_200],
    ['nanoseconds-2001', BigInt(nanoseconds2001(at))]
  ];
  for (const [clock, value] of cases) assert.equal(toMilliseconds(value, clock), at, clock);
  assert.equal(toMilliseconds(0, 'seconds-1970'), null);
  assert.equal(toMilliseconds(null, 'seconds-1970'), null);
  assert.equal(toMilliseconds('text', 'seconds-1970'), null);
});

test('nanoseconds lose no millisecond', () => {
  fc.assert(
    fc.property(fc.integer({ min: Date.UTC(2005, 0), max: Date.UTC(2040, 0) }), (at) => {
      assert.equal(toMilliseconds(BigInt(nanoseconds2001(at)), 'nanoseconds-2001'), at);
    })
  );
});

test('a column that keeps another unit of the same epoch is noticed', () => {
  const seconds = Array.from({ length: 50 }, (_, i) => 700_000_000 + i);
  assert.equal(settleClock(seconds, 'nanoseconds-2001'), 'seconds-2001');
  assert.equal(
    settleClock(
      seconds.map((s) => s * 1e9),
      'nanoseconds-2001'
    ),
    'nanoseconds-2001'
  );
  assert.equal(settleClock([], 'seconds-1970'), 'seconds-1970');
  assert.equal(settleClock([1_773_302_112], 'milliseconds-1970'), 'seconds-1970');
});

test('archived attributed strings of every length give their wording', () => {
  for (const length of [0, 1, 127, 128, 300, 70_000]) {
    const text = 'ø'.repeat(Math.floor(length / 2)) + 'x'.repeat(length % 2);
    assert.equal(textOfTypedStream(typedStream(text)), text, String(length));
  }
  assert.equal(textOfTypedStream(Uint8Array.of(1, 2, 3)), null);
  assert.equal(textOfTypedStream(typedStream('cut off').subarray(0, -3)), null);
});

/** The parts of an archive that matter: class name, mark, length in its three forms, bytes. */
function typedStream(text: string): Uint8Array {
  const body = Buffer.from(text);
  const length = Buffer.alloc(5);
  let size = 1;
  if (body.length < 0x80) length.writeUInt8(body.length);
  else if (body.length < 0x10000) {
    length.writeUInt8(0x81);
    length.writeUInt16LE(body.length, 1);
    size = 3;
  } else {
    length.writeUInt8(0x82);
    length.writeUInt32LE(body.length, 1);
    size = 5;
  }
  const head = Buffer.from('\u0004\u000bstreamtyped NSString\u0001\u0094', 'latin1');
  const mark = Buffer.from([0x84, 0x01, 0x2b]);
  return Buffer.concat([head, mark, length.subarray(0, size), body]);
}

test('telephony: people, threads, directions and times of plain messages', async () => {
  const sent = messages(60, seeded(3));
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, sent);
  });
  const { findings } = await passOver({ 'a.db': bytes });
  assert.equal(findings.stores[0]!.profile, 'telephony-provider');
  for (const { id, address, date, type, body } of sent) {
    const record = findings.messages.find((m) => m.id.endsWith(`/sms/${id}`))!;
    assert.equal(record.body, body);
    assert.equal(record.sentAt, date);
    assert.equal(record.direction, type === 1 ? 'incoming' : 'outgoing');
    assert.equal(record.sender, type === 1 ? `p:${address}` : 'owner');
    const thread = findings.threads.find((t) => t.id === record.thread)!;
    assert.deepEqual(thread.participants, [`p:${address}`]);
  }
});

test('telephony: multimedia messages join their parts and addresses', async () => {
  const bytes = makeDatabase((db) =>
    db.run(`${TELEPHONY_SCHEMA}
      CREATE TABLE pdu(_id INTEGER PRIMARY KEY, thread_id INTEGER, date INTEGER, msg_box INTEGER, sub TEXT);
      CREATE TABLE part(_id INTEGER PRIMARY KEY, mid INTEGER, ct TEXT, name TEXT, fn TEXT, cl TEXT, _data TEXT, text TEXT);
      CREATE TABLE addr(_id INTEGER PRIMARY KEY, msg_id INTEGER, address TEXT, type INTEGER);
      INSERT INTO canonical_addresses VALUES(1,'+447700900111'),(2,'07700 900222');
      INSERT INTO threads(_id, recipient_ids) VALUES(1,'1 2');
      INSERT INTO pdu VALUES(1,1,1700000000,1,'Subject'),(2,1,1700000060,2,NULL);
      INSERT INTO part VALUES(1,1,'application/smil',NULL,NULL,NULL,NULL,'<smil/>'),(2,1,'text/plain',NULL,NULL,NULL,NULL,'one'),(3,1,'text/plain',NULL,NULL,NULL,NULL,'two'),
        (4,1,'image/jpeg','a.jpg',NULL,NULL,'parts/a',NULL),(5,2,'text/plain',NULL,NULL,NULL,NULL,'answer');
      INSERT INTO addr VALUES(1,1,'+447700900222',137),(2,1,'insert-address-token',151),(3,2,'insert-address-token',137),(4,2,'+447700900111',151);`)
  );
  const { findings } = await passOver({ 'a.db': bytes });
  const [first, second] = findings.messages;
  assert.deepEqual(
    [first!.body, first!.subject, first!.sender, first!.sentAt],
    ['one\ntwo', 'Subject', 'p:+447700900222', 1_700_000_000_000]
  );
  assert.deepEqual(
    [second!.body, second!.sender, second!.direction],
    ['answer', 'owner', 'outgoing']
  );
  assert.equal(first!.thread, second!.thread);
  const [thread] = findings.threads;
  assert.equal(thread!.group, true);
  assert.deepEqual(thread!.participants, ['p:+447700900111', 'p:+447700900222']);
  assert.deepEqual(
    findings.attachments.map((a) => [a.name, a.mime, a.path, a.bytes]),
    [['a.jpg', 'image/jpeg', 'parts/a', null]]
  );
});

test('handle–chat: groups keep their name and members, wording may lie in the archive', async () => {
  const at = nanoseconds2001(Date.UTC(2026, 0, 5));
  const bytes = makeDatabase((db) => {
    db.run(HANDLE_CHAT_SCHEMA);
    db.run(`INSERT INTO handle VALUES(1,'+447700900111','post'),(2,'tess@quay.example','post');
      INSERT INTO chat VALUES(1,'post;+;room',43,'room','room','Crew');
      INSERT INTO chat_handle_join VALUES(1,1),(1,2);
      INSERT INTO message(ROWID, guid, text, handle_id, date, is_from_me) VALUES(1,'g1','hello',2,${at},0),(2,'g2',NULL,0,${at},1);
      INSERT INTO chat_message_join VALUES(1,1,${at}),(1,2,${at});`);
    db.run('UPDATE message SET attributedBody=? WHERE ROWID=2', [typedStream('from the archive')]);
  });
  const { findings } = await passOver({ 'a.db': bytes });
  assert.deepEqual(
    findings.messages.map((m) => [m.body, m.sender]),
    [
      ['hello', 'p:tess@quay.example'],
      ['from the archive', 'owner']
    ]
  );
  assert.deepEqual(
    findings.threads.map((t) => [t.title, t.group, t.participants.length]),
    [['Crew', true, 2]]
  );
});

test('handle–chat: a deleted message keeps its chat although the number was given again', async () => {
  const sent = messages(40, seeded(8));
  const bytes = makeDatabase((db) => {
    db.run(
      HANDLE_CHAT_SCHEMA.replace(
        'AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text',
        ', guid TEXT UNIQUE NOT NULL, text'
      )
    );
    insertChats(db, sent);
    db.run('DELETE FROM chat_message_join WHERE message_id=40; DELETE FROM message WHERE ROWID=40');
    const [other] = messages(1, seeded(77));
    insertChats(db, [{ ...other!, id: 40, address: '+447700900999', body: 'took the number' }]);
  });
  const { findings } = await passOver({ 'a.db': bytes });
  const thread = (body: string) => findings.messages.find((m) => m.body === body)?.thread;
  const { id: store } = findings.stores[0]!;
  assert.equal(thread('took the number'), `${store}/t/+447700900999`);
  const gone = sent[39]!;
  const record = findings.messages.find((m) => m.body === gone.body);
  if (record) assert.equal(record.thread, `${store}/t/${gone.address}`);
});

test('edited wording and read marks: one record live, the older wording earlier', async () => {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(30, seeded(5)));
    // Longer rows move, and leave their old cells behind.
    db.run("UPDATE sms SET service_center = '+447700900900 and more' WHERE _id = 8");
    db.run("UPDATE sms SET body = 'edited: ' || printf('%.*c', 300, 'x') WHERE _id = 7");
  });
  const { findings } = await passOver({ 'a.db': bytes });
  const [original] = messages(30, seeded(5)).filter((m) => m.id === 7);
  const earlier = findings.messages.filter((m) => m.state === 'earlier');
  assert.deepEqual(
    earlier.map((m) => [m.body, m.replaces]),
    [[original!.body, `${findings.stores[0]!.id}/sms/7`]]
  );
  assert.equal(findings.messages.filter((m) => m.state === 'recovered').length, 0);
  const marked = findings.messages.find((m) => m.id.endsWith('/sms/8'))!;
  assert.ok(marked.proofs.length >= 2);
});

test('a long body is cited in all its stretches, in order', async () => {
  const long = Array.from({ length: 900 }, (_, i) => `word${i}`).join(' ');
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(5, seeded(3)));
    db.run('UPDATE sms SET body = ? WHERE _id = 3', [long]);
  }, 'PRAGMA page_size=1024;');
  const { findings } = await passOver({ 'a.db': bytes });
  const message = findings.messages.find(({ body }) => body === long)!;
  assert.ok(message.proofs.length > 5);
  const cited = message.proofs.map(({ offset, length }) =>
    Buffer.from(bytes.subarray(offset, offset + length)).toString('latin1')
  );
  // The link to the first overflow page stands at the end of the cell.
  const text = cited.map((part, i) => (i === 0 ? part.slice(0, -4) : part)).join('');
  assert.ok(text.includes(long));
});
