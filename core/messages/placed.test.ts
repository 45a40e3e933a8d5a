import assert from 'node:assert/strict';
import { test } from 'node:test';
import { PlacedMessages } from './placed';

test('messages are found by their numbers, with their ids, times and threads', () => {
  const placed = new PlacedMessages();
  placed.add('sms', 4, 1000, 'a', null);
  placed.add('sms', 9, null, 'b', 's/sms/@1f');
  placed.add('mms', 4, 3000, 'a', null);
  const sms = placed.of('sms');
  assert.deepEqual(sms.named(4, 's', 'sms'), {
    id: 's/sms/4',
    rowid: 4,
    sentAt: 1000,
    thread: 'a'
  });
  assert.deepEqual(sms.named(9, 's', 'sms'), {
    id: 's/sms/@1f',
    rowid: 9,
    sentAt: null,
    thread: 'b'
  });
  assert.equal(placed.of('mms').named(4, 's', 'mms').sentAt, 3000);
});

test('what is added after a search is found too', () => {
  const placed = new PlacedMessages();
  placed.add('sms', 1, 10, 'a', null);
  assert.equal(placed.of('sms').named(1, 's', 'sms').sentAt, 10);
  placed.add('sms', 2, 20, 'a', null);
  assert.equal(placed.of('sms').named(2, 's', 'sms').sentAt, 20);
});

test('messages without a number count for their moment alone', () => {
  const placed = new PlacedMessages();
  placed.add('sms', null, 500, 'a', 'x');
  placed.add('sms', null, null, 'a', 'y');
  assert.deepEqual(placed.of('sms').nameless, [500]);
  assert.equal(placed.of('sms').rowids.length, 0);
  assert.deepEqual([...placed.byThread()], []);
});

test('columns say the same as messages one by one', () => {
  const one = new PlacedMessages();
  const columns = new PlacedMessages();
  const threads = ['a', 'b', 'c'];
  const count = 1000;
  const rowids = Float64Array.from({ length: count }, (_, i) => i * 2);
  const moments = rowids.map((n) => (n % 14 === 0 ? NaN : n * 100));
  const contexts = Uint32Array.from({ length: count }, (_, i) => i % 3);
  columns.addColumns('sms', { rowids, moments, contexts }, (context) => threads[context]!, null);
  for (let i = 0; i < count; i++) {
    const moment = moments[i]!;
    one.add('sms', rowids[i]!, Number.isNaN(moment) ? null : moment, threads[i % 3]!, null);
  }
  assert.deepEqual([...columns.byThread()].sort(), [...one.byThread()].sort());
  for (const rowid of [0, 14, 28, 998, 1998])
    assert.deepEqual(
      columns.of('sms').named(rowid, 's', 'sms'),
      one.of('sms').named(rowid, 's', 'sms')
    );
});

test('a table that nothing was added to is empty', () => {
  const none = new PlacedMessages().of('sms');
  assert.deepEqual([none.rowids.length, none.nameless.length], [0, 0]);
});

test('ids that do not follow from numbers are made when they are asked for', () => {
  const placed = new PlacedMessages();
  let made = 0;
  placed.addColumns(
    'sms',
    {
      rowids: Float64Array.from([3, NaN, 5]),
      moments: Float64Array.from([10, 20, NaN]),
      contexts: Uint32Array.from([0, 0, 0])
    },
    () => 'a',
    (i) => (made++, `place ${i}`)
  );
  assert.equal(made, 0);
  const sms = placed.of('sms');
  assert.deepEqual(sms.named(5, 's', 'sms'), {
    id: 'place 2',
    rowid: 5,
    sentAt: null,
    thread: 'a'
  });
  assert.deepEqual([sms.named(3, 's', 'sms').id, made], ['place 0', 2]);
  assert.deepEqual(sms.nameless, [20]);
});
