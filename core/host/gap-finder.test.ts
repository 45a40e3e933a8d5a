import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { GapFinder, repeated, roomFor, sortedColumn } from '.';

const number = fc.oneof(
  fc.integer({ min: -40, max: 400 }),
  fc.double(),
  fc.constantFrom(NaN, 0, -0, 2 ** 53, Infinity, -Infinity)
);

test('a number that stands in the column is never said to lack, in whatever order they are asked for', () => {
  fc.assert(
    fc.property(fc.array(number, { maxLength: 200 }), fc.array(number), (column, asked) => {
      const finder = new GapFinder(sortedColumn(Float64Array.from(column), roomFor));
      for (const one of [...asked, ...column, ...asked])
        if (column.includes(one)) assert.equal(finder.lacks(one), false, `${one}`);
    }),
    { numRuns: 500 }
  );
});

test('numbers that come in rising order are told apart one by one', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 300 })), fc.boolean(), (column, isFalling) => {
      const finder = new GapFinder(sortedColumn(Float64Array.from(column), roomFor));
      const all = Array.from({ length: 301 }, (_, i) => (isFalling ? 300 - i : i));
      const told = all.map((one) => finder.lacks(one));
      // Behind many numbers that are the same it may have to jump, which it does now and then only.
      const expected = all.map((one) => !column.includes(one));
      const missed = told.filter((one, i) => one !== expected[i]).length;
      assert.ok(missed <= 32, `${missed} of ${all.length}`);
    }),
    { numRuns: 200 }
  );
});

test('after a leap it finds its place again', () => {
  const column = Float64Array.from({ length: 10_000 }, (_, i) => i * 10);
  const finder = new GapFinder(sortedColumn(column, roomFor));
  for (const start of [5, 80_005, 20_005, 99_005]) {
    const run = Array.from({ length: 60 }, (_, i) => finder.lacks(start + i * 10));
    assert.equal(run.at(-1), true, `from ${start}`);
    assert.ok(run.filter(Boolean).length >= 40, `from ${start}`);
  }
});

test('numbers that stand more than once are told, in whatever order they stand', () => {
  fc.assert(
    fc.property(fc.array(number), fc.boolean(), (numbers, isSorted) => {
      const column = isSorted ? numbers.sort((a, b) => a - b) : numbers;
      const known = column.filter((one) => !Number.isNaN(one));
      const twice = known.filter((one, i) => known.indexOf(one) !== i);
      const found = repeated(Float64Array.from(column));
      assert.deepEqual([...found].sort(), [...new Set(twice)].sort());
    }),
    { numRuns: 500 }
  );
});
