import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { merged, sorted } from './order';

const numbers = fc.array(fc.integer({ min: -50, max: 50 }), { maxLength: 60 });
const rising = (a: number, b: number): number => a - b;

test('numbers are sorted, however much of them is in order already', () => {
  fc.assert(
    fc.property(numbers, numbers, (first, rest) => {
      const all = [...first.sort(rising), ...rest];
      const given = Float64Array.from(all);
      assert.deepEqual([...sorted(given)], [...all].sort(rising));
      assert.deepEqual([...given], all, 'what was given is left as it was');
    })
  );
});

test('what is sorted already is not copied', () => {
  const given = Float64Array.from([1, 2, 2, 5]);
  assert.equal(sorted(given), given);
});

test('two sorted lists become one', () => {
  fc.assert(
    fc.property(numbers, numbers, (a, b) => {
      const one = merged(Float64Array.from(a.sort(rising)), Float64Array.from(b.sort(rising)));
      assert.deepEqual([...one], [...a, ...b].sort(rising));
    })
  );
});
