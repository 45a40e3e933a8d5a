import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { messageJson } from '../convert';
import { JsonBytes } from '../json-bytes';
import { STATES, type Message } from '../model';
import { BatchBuilder } from './builder';
import { BatchJson } from './json';
import type { MessageBatch } from './model';
import { messagesOf } from './read';
import { TextHeap } from './text-heap';

/** Objects as the readers make them. */
const PLAIN = { noNullPrototype: true };

const text = fc.oneof(fc.string({ unit: 'binary' }), fc.string({ unit: 'grapheme' }));
const moment = fc.option(fc.integer({ min: 0, max: 4e12 }));
const id = fc.oneof(
  fc.constantFrom('s1.1/sms/0', 's1.1/sms/07', 's1.1/sms/9007199254740993', 's1.1/sms/@1f', '12'),
  fc.nat().map((n) => `s1.1/sms/${n}`),
  text
);

const message: fc.Arbitrary<Message> = fc.record(
  {
    id,
    store: fc.constant('s1.1'),
    thread: fc.constantFrom('s1.1/t/a', 's1.1/t/b'),
    sender: fc.option(fc.constantFrom('owner', 'p:a')),
    direction: fc.constantFrom('incoming', 'outgoing', 'system', 'unknown'),
    sentAt: moment,
    deliveredAt: moment,
    readAt: moment,
    // Half a surrogate pair is no text in UTF-8.
    body: fc.oneof(text, fc.constantFrom('\ud83d', 'half \udf0a', '')),
    subject: fc.option(text, { freq: 2 }),
    state: fc.constantFrom(...STATES),
    purgeAt: fc.option(fc.nat(), { freq: 9 }),
    replaces: fc.option(id, { freq: 9 }),
    certainty: fc.integer({ min: 0, max: 100 }),
    reasons: fc.array(text, { maxLength: 3 }),
    proofs: fc.array(
      fc.record(
        {
          source: fc.constant('s1'),
          path: fc.constantFrom('a.db', 'a.db-wal'),
          page: fc.option(fc.integer({ min: 1, max: 0xffff_ffff })),
          offset: fc.nat(),
          length: fc.nat(),
          method: fc.constantFrom('table', 'log', 'free-page')
        },
        PLAIN
      ),
      { maxLength: 3 }
    ),
    attachments: fc.array(text, { maxLength: 1 }),
    replyTo: fc.option(id, { freq: 9 }),
    reactions: fc.array(fc.record({ person: fc.constant(null), text, at: moment }, PLAIN), {
      maxLength: 1
    }),
    location: fc.constant(null)
  },
  PLAIN
);

function jsonOf(batch: MessageBatch): string[] {
  const out = new JsonBytes();
  new BatchJson({ before: '{"record":"message",', after: '\n' }).write(batch, out);
  return new TextDecoder('utf-8', { ignoreBOM: true })
    .decode(out.written())
    .split('\n')
    .slice(0, -1)
    .map((line) => line.replace('"record":"message",', ''));
}

test('messages are the same when they come out of a batch, as records and as JSON', () => {
  const builder = new BatchBuilder('s1.1');
  fc.assert(
    fc.property(fc.array(message, { maxLength: 8 }), (messages) => {
      for (const one of messages) builder.add(one);
      assert.equal(builder.count, messages.length);
      const seen = jsonOf(builder.view());
      const batch = builder.take();
      assert.equal(builder.count, 0);
      assert.deepEqual([...messagesOf(batch)], messages);
      assert.deepEqual(jsonOf(batch), seen);
      assert.deepEqual(seen, messages.map(messageJson));
    }),
    { numRuns: 400 }
  );
});

test('a batch that was taken stays as it is when its builder goes on', () => {
  const builder = new BatchBuilder('s1.1');
  const [first, second] = fc.sample(message, { numRuns: 2, seed: 4 }) as [Message, Message];
  builder.add(first);
  const batch = builder.take();
  builder.add(second);
  assert.deepEqual([...messagesOf(batch)], [first]);
  assert.deepEqual([...messagesOf(structuredClone(builder.take()))], [second]);
});

const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be'] as const;

test('stored texts are kept as their decoded form is in UTF-8, or refused whole', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...ENCODINGS),
      fc.oneof(
        fc.uint8Array({ maxLength: 60 }),
        fc.string({ unit: 'grapheme', maxLength: 60 }).map((text) => Buffer.from(text)),
        fc.string({ maxLength: 60 }).map((text) => Buffer.from(text, 'utf16le'))
      ),
      (encoding, bytes) => {
        const decoded = new TextDecoder(encoding, { ignoreBOM: true }).decode(bytes);
        const heap = new TextHeap();
        heap.addString('before ');
        const isTaken = heap.add(bytes, 0, bytes.length, encoding);
        const kept = new TextDecoder('utf-8', { ignoreBOM: true }).decode(heap.view());
        assert.equal(kept, isTaken ? `before ${decoded}` : 'before ');
        if (!decoded.includes('\ufffd') && bytes.length % 2 === 0) assert.ok(isTaken);
      }
    ),
    { numRuns: 2000 }
  );
});

test('a byte that is no UTF-8 is found wherever it stands', () => {
  for (const length of [1, 7, 8, 9, 64]) {
    for (let at = 0; at < length; at++) {
      const bytes = new Uint8Array(length).fill(0x61);
      bytes[at] = 0xff;
      assert.ok(!new TextHeap().add(bytes, 0, length, 'utf-8'), `${at} of ${length}`);
    }
  }
});
