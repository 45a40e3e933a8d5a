import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { orderOf } from './order';

/** Numbers that stand close together, far apart, or below zero: each is kept in another way. */
const lists = fc.oneof(
  fc.array(fc.array(fc.integer({ min: 0, max: 60 }), { maxLength: 40 }), { maxLength: 3 }),
  fc.array(fc.array(fc.integer({ min: 0, max: 1e12 }), { maxLength: 12 }), { maxLength: 3 }),
  fc.array(fc.array(fc.integer({ min: -20, max: 40 }), { maxLength: 20 }), { maxLength: 3 })
);

test('numbers are told in their order, however they are kept', () => {
  fc.assert(
    fc.property(lists, fc.integer({ min: -3, max: 70 }), (given, number) => {
      const order = orderOf(given.map((list) => Float64Array.from(list)));
      const all = given.flat().sort((a, b) => a - b);
      assert.equal(order.count, all.length);
      assert.equal(order.first, all.find((n) => n > 0) ?? 0);
      assert.equal(order.last, Math.max(0, ...all));
      assert.equal(order.below(number), all.findLast((n) => n < number) ?? null);
      assert.equal(order.above(number), all.find((n) => n > number) ?? null);
    }),
    { numRuns: 500 }
  );
});

test('what is missing and what is there make up all numbers', () => {
  fc.assert(
    fc.property(lists, fc.nat(5), fc.nat(9), (given, before, more) => {
      const order = orderOf(given.map((list) => Float64Array.from(list)));
      const there = new Set(given.flat());
      const last = Math.min(order.last, 200) + more;
      const expected = Array.from({ length: last }, (_, i) => i + 1).filter(
        (n) => n > before && !there.has(n)
      );
      const missing = order
        .missing(before, Math.max(last, order.last))
        .flatMap(({ from, to }) =>
          Array.from({ length: Math.min(to, last) - from + 1 || 0 }, (_, i) => from + i).filter(
            () => from <= last
          )
        );
      assert.deepEqual(missing.slice(0, expected.length), expected);
    }),
    { numRuns: 500 }
  );
});
