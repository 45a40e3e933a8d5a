import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { BatchBuilder, STATES, type Message } from '../../records';
import { messageRecord } from '../../tests/records';
import { copiesIn, Stands } from './copies';
import { foldText } from './fold-text';
import { idKey } from './keys';
import { inOrderOfTime } from './merge';
import { CHUNK } from './model';
import { numberRows } from './numbering';
import { foldedTexts, Needle } from './search';
import { StoreCollector } from './sort';
import { joined, stateCounts, summaryOf } from './summary';

const encoder = new TextEncoder();

function collected(batches: readonly (readonly Message[])[]): StoreCollector {
  const collector = new StoreCollector();
  for (const messages of batches) {
    const builder = new BatchBuilder('s1.1');
    for (const message of messages) builder.add(message);
    collector.add(builder.take());
  }
  return collector;
}

const moment = fc.option(fc.integer({ min: 0, max: 5 }), { freq: 6 });
const told = fc.record({
  thread: fc.constantFrom('a', 'b', 'c'),
  sentAt: moment,
  state: fc.constantFrom(...STATES),
  body: fc.constantFrom('', 'tide', 'Ebbe und Flut', 'приплыли')
});

test('messages stand by conversation and time, then by the numbers in their ids, however they came', () => {
  fc.assert(
    fc.property(fc.array(fc.array(told, { maxLength: 12 }), { maxLength: 4 }), (batches) => {
      let n = 0;
      const made = batches.map((batch) =>
        batch.map((one) => messageRecord({ ...one, id: `s1.1/m/${++n}` }))
      );
      const order = ['b', 'a', 'c'];
      const sorted = collected(made).sorted(order.map((id) => ({ id })));
      const expected = made
        .flat()
        .map((message, i) => ({ message, i }))
        .sort(
          (x, y) =>
            order.indexOf(x.message.thread) - order.indexOf(y.message.thread) ||
            (x.message.sentAt ?? Infinity) - (y.message.sentAt ?? Infinity) ||
            x.i - y.i ||
            0
        );
      assert.deepEqual(
        [...sorted.columns.origin],
        expected.map(({ i }) => i)
      );
      assert.deepEqual(
        Array.from(sorted.columns.idKey),
        expected.map(({ message }) => idKey(message.id))
      );
      assert.equal(
        sorted.threads.reduce((sum, { count }) => sum + count, 0),
        n
      );
      const texts = sorted.texts(0);
      const bodies = expected.slice(0, CHUNK).map(({ message }) => message.body);
      assert.equal(new TextDecoder().decode(texts.text), bodies.join(''));
    })
  );
});

test('a summary counts each line once, by day and state, and joins with others', () => {
  fc.assert(
    fc.property(fc.array(told, { minLength: 1, maxLength: 40 }), (list) => {
      const days = list.map((one) => ({
        ...one,
        sentAt: one.sentAt === null ? null : one.sentAt * 40_000_000
      }));
      const made = days.map((one, i) => messageRecord({ ...one, id: `s1.1/m/${i}` }));
      const { threads, columns } = collected([made]).sorted([]);
      const summary = joined(threads.map((range) => summaryOf(range, columns)));
      const counts = stateCounts(summary);
      STATES.forEach((state, i) =>
        assert.equal(counts[i], list.filter((one) => one.state === state).length, state)
      );
      assert.ok(summary.days.every((day, i) => i === 0 || day >= summary.days[i - 1]!));
      const known = days.flatMap(({ sentAt }) => sentAt ?? []);
      assert.equal(summary.first, known.length === 0 ? NaN : Math.min(...known));
    })
  );
});

test('a text is found where its folded form holds the folded query, and nowhere else', () => {
  const letters = fc.constantFrom('a', 'b', 'A', 'ä', 'ß', 'Ö', 'я', ' ', '\u0301', '🛶');
  const text = fc.array(letters, { maxLength: 12 }).map((parts) => parts.join(''));
  fc.assert(
    fc.property(fc.array(text, { maxLength: 8 }), text, (texts, query) => {
      const needle = new Needle(query);
      if (needle.isEmpty) return;
      const parts = texts.map((one) => encoder.encode(one));
      const ends = Uint32Array.from(parts, (_, i) =>
        parts.slice(0, i + 1).reduce((sum, { length }) => sum + length, 0)
      );
      const all = foldedTexts({ text: Uint8Array.from(parts.flatMap((part) => [...part])), ends });
      const hits = new Uint8Array(texts.length);
      const count = needle.mark(all, hits, 0);
      const wanted = foldText(query.trim());
      assert.deepEqual(
        [...hits],
        texts.map((one) => (foldText(one).includes(wanted) ? 1 : 0))
      );
      assert.equal(
        count,
        hits.reduce((sum, hit) => sum + hit, 0)
      );
    }),
    { numRuns: 2000 }
  );
});

test('of copies in several stores one is shown, and each leads to it', () => {
  const contexts = [{ thread: 't', sender: 'p:a', direction: 'incoming' as const }];
  const store = (states: number[]): { contexts: typeof contexts; columns: Columns } => ({
    contexts,
    columns: {
      context: new Uint32Array(states.length),
      sentAt: new Float64Array(states.length).fill(7),
      state: Uint8Array.from(states),
      contentKey: new Float64Array(states.length).fill(42)
    }
  });
  const [live, recovered] = [STATES.indexOf('live'), STATES.indexOf('recovered')];
  const stores = [store([recovered]), store([live]), store([recovered])];
  const range = { start: 0, count: 1 };
  const list = inOrderOfTime(stores.map(({ columns }, i) => ({ store: i, columns, range })));
  const stands = new Stands(copiesIn(list, stores));
  for (const place of [0, 1, 2]) {
    assert.deepEqual(stands.shown(place, 0), { store: 1, row: 0 });
    assert.equal(stands.isCopy(place, 0), place !== 1);
  }
  assert.deepEqual(
    stands
      .copiesOf(1, 0)
      .map(({ store }) => store)
      .sort(),
    [0, 2]
  );
});

interface Columns {
  context: Uint32Array;
  sentAt: Float64Array;
  state: Uint8Array;
  contentKey: Float64Array;
}

test('no two lines get one number, not even where two ids have one key', () => {
  const columns = { line: new Uint32Array(4), idKey: Float64Array.of(1, 2, 2, 3) };
  const last = numberRows(columns, new Map([[2, 5]]), 9, true);
  assert.deepEqual([...columns.line], [10, 5, 11, 12]);
  assert.equal(last, 12);
});
