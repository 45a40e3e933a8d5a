import assert from 'node:assert/strict';
import { test } from 'node:test';
import bplist from 'bplist-creator';
import fc from 'fast-check';
import { makeDatabase, snapshot } from '../tests/databases';
import { mimeOf } from './attachments';

const text = (words: string): Uint8Array => new TextEncoder().encode(words);

test('the first bytes tell databases with their logs, property lists and contact cards', async () => {
  const { wal } = snapshot(
    'PRAGMA journal_mode=WAL; CREATE TABLE t(a); INSERT INTO t VALUES(1);\nSNAPSHOT\n',
    'SELECT 1'
  );
  const journal = Uint8Array.from([0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7, 0, 0, 0, 1]);
  const heads: [bytes: Uint8Array, mime: string | null][] = [
    [makeDatabase((db) => db.run('CREATE TABLE t(a)')), 'application/x-sqlite3'],
    [wal!, 'application/x-sqlite3-wal'],
    [Uint8Array.from([0x37, 0x7f, 0x06, 0x83, 0, 0, 0, 0]), 'application/x-sqlite3-wal'],
    [Uint8Array.from([0x37, 0x7f, 0x06, 0x84, 0, 0, 0, 0]), null],
    [journal, 'application/x-sqlite3-journal'],
    [bplist({ a: 1 }), 'application/x-plist'],
    [
      text('<?xml version="1.0"?>\n<!DOCTYPE plist PUBLIC "x" "y">\n<plist/>'),
      'application/x-plist'
    ],
    [text('\ufeffBEGIN:VCARD\r\nVERSION:3.0'), 'text/vcard'],
    [text('just words'), null],
    [new Uint8Array(2), null],
    [Uint8Array.from([0xff, 0xff, 0xff, 0xff, 0xff]), null]
  ];
  for (const [bytes, mime] of heads)
    assert.equal(await mimeOf(bytes), mime, Buffer.from(bytes.subarray(0, 16)).toString('latin1'));
});

test('whatever the bytes are, a kind or none is the answer', async () => {
  await fc.assert(
    fc.asyncProperty(fc.uint8Array({ maxLength: 600 }), async (bytes) => {
      const mime = await mimeOf(bytes);
      assert.ok(mime === null || /^\w+\/[\w.+-]+$/.test(mime), String(mime));
    })
  );
});
