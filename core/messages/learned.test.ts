import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import type { BatchContext } from '../records';
import { RecordCursor, type PlainRows } from '../profiles';
import { messageRecord } from '../tests/records';
import { storeMessage } from '../tests/store-messages';
import { contextHash, contextKey, Contexts } from './contexts';
import type { FoldedMessage } from './fold';
import { Learned } from './learned';
import { ToldContexts } from './line-thread';

/** Rows of three values, of which the first two tell the context. */
const ROWS: PlainRows = {
  name: 'sms',
  encoding: 'utf-8',
  stored: 3,
  body: 2,
  sentAt: { at: 0, clock: 'milliseconds-1970', facts: null, zone: undefined },
  deliveredAt: null,
  readAt: null,
  unique: -1,
  context: [0, 1],
  extras: [],
  links: [],
  joins: [],
  joined: new Float64Array(0)
};

interface Values {
  thread: number;
  sender: string;
  body: string;
}

/** A record by the file format: an integer of one byte and two texts. */
function record({ thread, sender, body }: Values): Uint8Array {
  const texts = [Buffer.from(sender), Buffer.from(body)];
  const serials = [1, ...texts.map(({ length }) => 13 + 2 * length)].flatMap((serial) =>
    serial < 128 ? [serial] : [(serial >> 7) | 0x80, serial & 0x7f]
  );
  return Buffer.concat([Buffer.from([serials.length + 1, ...serials, thread]), ...texts]);
}

function pointed(values: Values): RecordCursor {
  const cursor = new RecordCursor();
  const bytes = record(values);
  assert.ok(cursor.read(bytes, 0, bytes.length));
  return cursor;
}

const values: fc.Arbitrary<Values> = fc.record({
  thread: fc.integer({ min: 2, max: 5 }),
  sender: fc.constantFrom('', 'a', 'b', 'ab', 'x'.repeat(90)),
  body: fc.string({ maxLength: 12 })
});

test('rows have one context when their telling values are the same, byte by byte', () => {
  fc.assert(
    fc.property(values, values, fc.boolean(), (one, other, freed) => {
      const contexts = new Contexts();
      const cursor = pointed(one);
      contexts.add({ hash: contextHash(ROWS, cursor), key: contextKey(ROWS, cursor), freed });
      const isSame = one.thread === other.thread && one.sender === other.sender;
      assert.equal(contexts.find(ROWS, pointed(other), freed), isSame ? 0 : -1);
      assert.equal(contexts.find(ROWS, pointed(other), !freed), -1);
    }),
    { numRuns: 500 }
  );
});

function contextOf(sender: string): BatchContext {
  return { thread: `s/t/${sender}`, sender, direction: 'incoming' };
}

test('what was told of many contexts is found again, freed rows and live ones apart', () => {
  const contexts = new ToldContexts();
  const senders = Array.from({ length: 900 }, (_, i) => `sender ${i}`);
  senders.forEach((sender, index) => {
    const cursor = pointed({ thread: 3, sender, body: '' });
    const known = { index, hash: contextHash(ROWS, cursor), key: contextKey(ROWS, cursor) };
    const context = index % 7 === 0 ? null : contextOf(sender);
    contexts.add({ ...known, freed: index % 2 === 1, context, linked: index % 3 === 0 });
  });
  senders.forEach((sender, index) => {
    const cursor = pointed({ thread: 3, sender, body: 'another' });
    assert.equal(contexts.find(ROWS, cursor, index % 2 === 0), null, sender);
    const found = contexts.find(ROWS, cursor, index % 2 === 1);
    assert.deepEqual(found, index % 7 === 0 ? null : contextOf(sender));
    if (index % 7 === 0) return;
    assert.deepEqual([contexts.index, contexts.linked], [index, index % 3 === 0]);
  });
});

const PLACE = { file: 'a.db', offset: 4000 };

function message(offset: number, told: Partial<FoldedMessage> = {}): FoldedMessage {
  const proofs = [{ path: 'a.db', page: 1, offset, length: 50, method: 'table' as const }];
  return { ...storeMessage({ proofs }), replacesKey: null, ...told };
}

const VALUES: Values = { thread: 3, sender: 'a', body: 'the first' };

test('what a row means is known once a message of its kind was made', () => {
  const learned = new Learned();
  const cursor = pointed(VALUES);
  assert.equal(learned.meaning(ROWS, cursor, false, PLACE), null);
  learned.learn(message(PLACE.offset), messageRecord({ id: 's/sms/1', thread: 's/t/a' }));
  const known = learned.meaning(ROWS, pointed({ ...VALUES, body: 'another' }), false, PLACE);
  assert.equal(known?.context.thread, 's/t/a');
  assert.equal(learned.meaning(ROWS, pointed({ ...VALUES, sender: 'b' }), false, PLACE), null);
  assert.equal(learned.meaning(ROWS, cursor, true, PLACE), null, 'freed rows are another kind');
});

test('nothing is learned of a message that is not that of the row', () => {
  const learned = new Learned();
  learned.meaning(ROWS, pointed(VALUES), false, PLACE);
  learned.learn(message(PLACE.offset + 1), messageRecord({ id: 's/sms/2' }));
  learned.forget();
  learned.learn(message(PLACE.offset), messageRecord({ id: 's/sms/1' }));
  assert.equal(learned.meaning(ROWS, pointed(VALUES), false, PLACE), null);
});

test('a message that says more than its row’s plain values leaves its kind to be made in full', () => {
  const cases = [
    { subject: 'tide' },
    { attachments: ['x'] },
    { replyTo: 's/sms/9' },
    { reactions: [{ person: null, text: 'likes', at: null }] },
    { location: { lat: 1, lon: 2, label: null } }
  ];
  for (const told of cases) {
    const learned = new Learned();
    learned.meaning(ROWS, pointed(VALUES), false, PLACE);
    learned.learn(message(PLACE.offset), messageRecord({ id: 's/sms/1', ...told }));
    assert.equal(learned.meaning(ROWS, pointed(VALUES), false, PLACE), null, JSON.stringify(told));
    const [context] = learned.packed(ROWS, 0, () => true);
    assert.equal(context!.context, null);
  }
});

test('contexts are handed on once each, with whether their conversation has live lines', () => {
  const learned = new Learned();
  const teach = (sender: string, freed: boolean, offset: number): void => {
    learned.meaning(ROWS, pointed({ ...VALUES, sender }), freed, { file: 'a.db', offset });
    const state = freed ? 'recovered' : 'live';
    learned.learn(message(offset, { state }), messageRecord({ id: `${offset}`, thread: sender }));
  };
  teach('a', false, 1);
  teach('b', true, 2);
  const first = learned.packed(ROWS, 0, () => true);
  assert.deepEqual(
    first.map(({ index, freed, linked }) => [index, freed, linked]),
    [
      [0, false, false],
      [1, true, true]
    ]
  );
  teach('ab', true, 3);
  const more = learned.packed(ROWS, first.length, () => false);
  assert.deepEqual(
    more.map(({ index, linked }) => [index, linked]),
    [[2, false]]
  );
  assert.equal(learned.threadOf(ROWS, 2), 'ab');
  assert.deepEqual(structuredClone(more), more);
});
