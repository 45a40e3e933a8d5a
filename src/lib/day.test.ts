import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { dayText, readDay } from './day';

const CASES: [typed: string, day: string | null][] = [
  ['12 Mar 2026', '2026-03-12'],
  [' 12  march 2026 ', '2026-03-12'],
  ['2026-03-12', '2026-03-12'],
  ['1.4.2026', '2026-04-01'],
  ['29 Feb 2028', '2028-02-29'],
  ['29 Feb 2026', null],
  ['31.4.2026', null],
  ['03/12/2026', null],
  ['12 Mar 26', null],
  ['yesterday', null],
  ['', null]
];

for (const [typed, day] of CASES)
  test(`“${typed}” is ${day ?? 'no day'}`, () => assert.equal(readDay(typed), day));

test('a day is read again as it is shown', () => {
  const days = fc.date({
    noInvalidDate: true,
    min: new Date('1970-01-01'),
    max: new Date('2099-12-31')
  });
  fc.assert(
    fc.property(days, (at) => {
      const day = at.toISOString().slice(0, 10);
      assert.equal(readDay(dayText(day)), day);
    })
  );
});
