import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { stripsOf } from './strips';

function days(counts: readonly number[]): { day: string; from: number; count: number }[] {
  let from = 0;
  return counts.map((count, i) => {
    const day = { day: `day ${i}`, from, count };
    from += count;
    return day;
  });
}

test('short days share a strip, long ones go on in the next without a heading', () => {
  const strips = stripsOf(days([1, 2, 5]), 4);
  assert.deepEqual(
    strips.map((strip) => strip.map(({ day, from, to }) => [day?.day ?? null, from, to])),
    [
      [
        ['day 0', 0, 1],
        ['day 1', 1, 3],
        ['day 2', 3, 4]
      ],
      [[null, 4, 8]]
    ]
  );
});

test('each file stands once, in order, and no strip is wider than asked for', () => {
  const counts = fc.array(fc.integer({ min: 1, max: 40 }), { maxLength: 30 });
  fc.assert(
    fc.property(counts, fc.integer({ min: 1, max: 12 }), (list, columns) => {
      const strips = stripsOf(days(list), columns);
      let next = 0;
      for (const strip of strips) {
        for (const { from, to } of strip) {
          assert.equal(from, next);
          next = to;
        }
        assert.ok(strip.at(-1)!.to - strip[0]!.from <= columns);
      }
      assert.equal(
        next,
        list.reduce((sum, n) => sum + n, 0)
      );
      const headings = strips.flat().filter(({ day }) => day !== null).length;
      assert.equal(headings, list.length);
    })
  );
});
