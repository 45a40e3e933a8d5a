import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { ColumnIndex, keyNumber, keyOf } from './column-index';
import type { SqlValue } from '../sqlite';

const value: fc.Arbitrary<SqlValue> = fc.oneof(
  fc.constant(null),
  fc.integer({ min: -20, max: 20 }),
  fc.integer({ min: -20, max: 20 }).map(String),
  fc.double({ noNaN: true }),
  fc.bigInt({ min: 2n ** 53n, max: 2n ** 63n - 1n }),
  fc.string({ maxLength: 6 }),
  fc.uint8Array({ maxLength: 4 })
);

/** Equality as joins between stores' tables need it: by what a value looks like as text. */
function joins(a: SqlValue, b: SqlValue): boolean {
  return a !== null && b !== null && keyOf(a) === keyOf(b);
}

test('a value is found wherever one that joins with it stands', () => {
  fc.assert(
    fc.property(fc.array(value, { maxLength: 40 }), value, (column, asked) => {
      const index = new ColumnIndex(Float64Array.from(column, keyNumber));
      const found = new Set(index.find(asked));
      column.forEach((other, at) => {
        if (joins(other, asked)) assert.ok(found.has(at), `${String(asked)} at ${at}`);
      });
      assert.equal(index.has(asked), found.size > 0);
    }),
    { numRuns: 500 }
  );
});

test('numbers in text columns join with numbers, nothing joins with nothing', () => {
  const column: SqlValue[] = [7, '7', 7n, '07', ' 7', null, -0, '0', 'NaN'];
  const index = new ColumnIndex(Float64Array.from(column, keyNumber));
  assert.deepEqual(index.find(7), [0, 1, 2]);
  assert.deepEqual(index.find('7'), [0, 1, 2]);
  assert.deepEqual(index.find('07'), [3]);
  assert.deepEqual(index.find(0), [6, 7]);
  assert.deepEqual(index.find(null), []);
  assert.deepEqual(index.find('NaN'), [8]);
  assert.equal(index.has(NaN), false);
});

test('texts that are no numbers are told apart by their hashes', () => {
  const column = Array.from({ length: 5000 }, (_, i) => `guid-${i}-quay`);
  const index = new ColumnIndex(Float64Array.from(column, keyNumber));
  for (const at of [0, 1, 777, 4999]) assert.deepEqual(index.find(column[at]!), [at]);
  assert.equal(index.has('guid-5000-quay'), false);
});
