import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { isoTime, messageJson, messageToFile } from './convert';
import { STATES, type Message } from './model';

const text = fc.string({ unit: 'binary' });
const maybe = <T>(of: fc.Arbitrary<T>): fc.Arbitrary<T | null> => fc.option(of, { nil: null });
const moment = maybe(fc.oneof(fc.integer({ min: -1e15, max: 9e15 }), fc.double()));

const message: fc.Arbitrary<Message> = fc.record({
  id: text,
  store: text,
  thread: text,
  sender: maybe(text),
  direction: fc.constantFrom('incoming', 'outgoing', 'system', 'unknown'),
  sentAt: moment,
  deliveredAt: moment,
  readAt: moment,
  body: text,
  subject: maybe(text),
  state: fc.constantFrom(...STATES),
  purgeAt: moment,
  replaces: maybe(text),
  certainty: fc.nat(100),
  reasons: fc.array(text),
  proofs: fc.array(
    fc.record({
      source: text,
      path: text,
      page: maybe(fc.nat()),
      offset: fc.nat(),
      length: fc.nat(),
      method: fc.constantFrom('table', 'log', 'journal', 'free-page', 'carved')
    })
  ),
  attachments: fc.array(text),
  replyTo: maybe(text),
  reactions: fc.array(fc.record({ person: maybe(text), text, at: moment })),
  location: maybe(fc.record({ lat: fc.integer(), lon: fc.integer(), label: maybe(text) }))
});

test('the quick writing of a message is the plain one, byte by byte', () => {
  fc.assert(
    fc.property(message, (m) => {
      assert.equal(messageJson(m), JSON.stringify(messageToFile(m)));
    })
  );
});

test('times are those of the calendar, or unknown', () => {
  fc.assert(
    fc.property(fc.integer({ min: -62_000_000_000_000, max: 253_402_300_799_999 }), (at) => {
      assert.equal(isoTime(at), new Date(at).toISOString());
    })
  );
  for (const at of [null, NaN, Infinity, 1e17, 253_402_300_800_000])
    assert.equal(isoTime(at), null);
});
