import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { writeAb } from '../../bench/writers/ab';
import { writeBackup } from '../../bench/writers/backup';
import { deleted, numberRecord, smsRecord } from '../../bench/writers/card';
import { sealStore } from '../../bench/writers/sealed-store';
import { writeTar } from '../../bench/writers/tar';
import { Deliver } from 'node-pdu';
import { makeDatabase } from '../tests/databases';
import { passOver, type PassResult } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const store = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(200, seeded(2)));
  db.run('DELETE FROM sms WHERE _id % 5 = 0');
});

function told({ findings }: PassResult): string[] {
  return findings.messages.map(
    ({ sentAt, direction, body }) =>
      `${sentAt === null ? '-' : new Date(sentAt).toISOString().slice(0, 19)} ${direction} ${body}`
  );
}

test('a store is read at any nesting, and its proofs name the way to it', async () => {
  const tar = writeTar({ 'apps/org.example/db/mmssms.db': store }, 1_700_000_000_000);
  const ab = writeAb({ tar, compressed: true, password: 'tide', rounds: 100 });
  const outer = writeTar({ 'saved/phone.ab': ab }, 1_700_000_000_000);
  const result = await passOver({ 'drawer.tar': outer }, { keys: ['tide'] });
  const path = 'drawer.tar/saved/phone.ab/apps/org.example/db/mmssms.db';
  assert.equal(result.findings.stores[0]!.path, path);
  assert.equal(result.findings.messages.length, 200);
  const listed = result.files.find((file) => file.path === path)!;
  assert.equal(listed.sha256, createHash('sha256').update(store).digest('hex'));
});

test('keys: none, wrong and right, each said plainly', async () => {
  const sealed = sealStore({ name: 'm.db', store, key: { hex: 'ab'.repeat(32) } });
  const codes = async (keys: string[]): Promise<string[]> =>
    (await passOver({ 'x.sealed': sealed }, { keys })).source.notes.map(({ code }) => code);
  assert.deepEqual(await codes([]), ['key-needed']);
  assert.deepEqual(await codes(['cd'.repeat(32)]), ['wrong-key']);
  assert.deepEqual(await codes(['ab'.repeat(32)]), []);
});

test('attachments resolve to files by the end of their path, and missing ones stay named', async () => {
  const chat = makeDatabase((db) => {
    db.run(`CREATE TABLE message(ROWID INTEGER PRIMARY KEY, guid TEXT, text TEXT, handle_id INTEGER, date INTEGER, is_from_me INTEGER);
      CREATE TABLE handle(ROWID INTEGER PRIMARY KEY, id TEXT);
      CREATE TABLE attachment(ROWID INTEGER PRIMARY KEY, filename TEXT, mime_type TEXT, transfer_name TEXT, total_bytes INTEGER);
      CREATE TABLE message_attachment_join(message_id INTEGER, attachment_id INTEGER);
      INSERT INTO handle VALUES(1, '+447700900123');
      INSERT INTO message VALUES(1, 'g1', 'look', 1, 700000000000000000, 0), (2, 'g2', 'gone', 1, 700000001000000000, 0);
      INSERT INTO attachment VALUES(1, '~/Library/SMS/Attachments/aa/01/IMG.jpg', 'image/jpeg', 'IMG.jpg', 5), (2, '~/Library/SMS/Attachments/bb/02/LOST.jpg', 'image/jpeg', 'LOST.jpg', 77);
      INSERT INTO message_attachment_join VALUES(1, 1), (2, 2);`);
  });
  const bytes = Buffer.from('photo');
  const files = writeBackup({
    files: [
      { domain: 'HomeDomain', path: 'Library/SMS/sms.db', bytes: chat },
      { domain: 'MediaDomain', path: 'Library/SMS/Attachments/aa/01/IMG.jpg', bytes },
      {
        domain: 'MediaDomain',
        path: 'Library/SMS/Attachments/zz/09/IMG.jpg',
        bytes: Buffer.from('other')
      }
    ],
    device: { name: 'T', model: 'P', system: '1', serial: 'S', phone: '', at: new Date(0) },
    layout: 'database'
  });
  const { findings } = await passOver(files);
  const [found, lost] = findings.attachments;
  assert.equal(found!.sha256, createHash('sha256').update(bytes).digest('hex'));
  assert.equal(found!.path, 'MediaDomain/Library/SMS/Attachments/aa/01/IMG.jpg');
  assert.deepEqual([lost!.sha256, lost!.name, lost!.bytes], [null, 'LOST.jpg', 77]);
});

test('a card gives messages, contacts and facts of its own', async () => {
  const records = ['here', 'gone'].flatMap((text) =>
    new Deliver('+447700900123', text).getPartStrings()
  );
  const result = await passOver({
    '3F00/7F10/6F3C': Buffer.concat([
      smsRecord(1, records[0]!),
      deleted(smsRecord(1, records[1]!))
    ]),
    '3F00/7F10/6F3A': numberRecord(Buffer.from('Tilda'), '+447700900123', 28),
    '3F00/2FE2': Buffer.from('98440000000000000010', 'hex')
  });
  assert.equal(result.source.kind, 'card');
  assert.equal(result.source.device.serial, '89440000000000000001');
  assert.deepEqual(
    result.findings.messages.map(({ body, state, proofs }) => [body, state, proofs[0]!.method]),
    [
      ['here', 'live', 'card'],
      ['gone', 'recovered', 'card']
    ]
  );
  assert.equal(result.findings.people.find((p) => !p.owner)!.name, 'Tilda');
});

const AT = [1, 2, 3, 4].map((n) => Date.UTC(2026, 2, n, 9, 30));
const LINES = ['is the tide with us', 'yes at nine', 'who has the key of the shed', 'birk has it'];

test('structured logs are read by profiles that are worked out', async () => {
  const iso = (i: number): string => new Date(AT[i]!).toISOString();
  const expected = (sides: string[]): string[] =>
    LINES.map((line, i) => `${iso(i).slice(0, 19)} ${sides[i]!} ${line}`);
  const mixed = ['incoming', 'outgoing', 'incoming', 'outgoing'];
  const cases: [string, string, string[]][] = [
    [
      'saved.xml',
      `<?xml version='1.0' encoding='UTF-8'?><smses count="4">${LINES.map((line, i) => `<sms protocol="0" address="+447700900123" date="${AT[i]}" type="${i % 2 ? 2 : 1}" subject="null" body="${line}" read="1" status="-1" />`).join('\n')}</smses>`,
      mixed
    ],
    [
      'chat.xml',
      `<?xml version="1.0"?><chat account="tilda" service="x">${LINES.map((line, i) => `<message sender="${i % 2 ? 'ansel' : 'tilda'}" time="${iso(i)}" alias="A"><div><span style="x">${line}</span></div></message>`).join('\n')}</chat>`,
      ['outgoing', 'incoming', 'outgoing', 'incoming']
    ],
    [
      'chat.jsonl',
      LINES.map((line, i) =>
        JSON.stringify({
          id: i,
          ts: AT[i]! / 1000,
          sender: { name: i % 2 ? 'ansel' : 'tilda' },
          text: line,
          outgoing: i % 2
        })
      ).join('\n'),
      mixed
    ],
    [
      'result.json',
      JSON.stringify(
        {
          name: 'Ansel',
          type: 'personal',
          messages: LINES.map((line, i) => ({
            id: i,
            date: iso(i).slice(0, 19),
            date_unixtime: String(AT[i]! / 1000),
            from: i % 2 ? 'Ansel' : 'Tilda',
            text: i === 2 ? ['who has the key ', { type: 'bold', text: 'of the shed' }] : line
          }))
        },
        null,
        1
      ),
      LINES.map(() => 'unknown')
    ],
    [
      'table.csv',
      `Date,Direction,Phone number,Text\n${LINES.map((line, i) => `${iso(i)},${i % 2 ? 'sent' : 'received'},+447700900123,"${line}"`).join('\r\n')}\r\n`,
      mixed
    ]
  ];
  for (const [name, text, sides] of cases) {
    const bytes = Buffer.from(text);
    const result = await passOver({ [name]: bytes });
    assert.deepEqual(
      told(result),
      expected(sides),
      `${name} ${JSON.stringify(result.source.notes)}`
    );
    assert.equal(new Set(result.findings.messages.map((m) => m.thread)).size, 1, name);
    const { offset, length } = result.findings.messages[3]!.proofs[0]!;
    assert.match(bytes.subarray(offset, offset + length).toString(), /birk has it/, name);
  }
});

test('a text export names its attachments and its owner', async () => {
  const text =
    '[23/11/2026, 21:41:05] Tilda Roe: \u200e<attached: 00000012-PHOTO.jpg>\n[24/11/2026, 09:05:00] Ansel: nice\n[24/11/2026, 09:06:00] Tilda Roe: GONE.mp4 (file attached)\n';
  const { findings } = await passOver({
    'Chat with Tilda Roe.txt': Buffer.from(text),
    '00000012-PHOTO.jpg': Buffer.from('p')
  });
  assert.deepEqual(
    findings.messages.map(({ direction }) => direction),
    ['incoming', 'outgoing', 'incoming']
  );
  assert.deepEqual(
    findings.attachments.map(({ name, sha256 }) => [name, sha256 !== null]),
    [
      ['00000012-PHOTO.jpg', true],
      ['GONE.mp4', false]
    ]
  );
});

test('narrowing leaves out what is not wanted', async () => {
  const all = await passOver({ 'a.db': store });
  const times = all.findings.messages.map((m) => m.sentAt!).sort();
  const want = {
    kinds: new Set(['messages'] as const),
    from: times[50]!,
    to: times[99]!,
    addresses: []
  };
  assert.equal((await passOver({ 'a.db': store }, { want })).findings.messages.length, 50);
  const none = { kinds: new Set(['calls'] as const), from: null, to: null, addresses: [] };
  assert.equal((await passOver({ 'a.db': store }, { want: none })).findings.messages.length, 0);
});
