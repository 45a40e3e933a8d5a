import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { COUNTING_CLOCKS, isPlausible, settleClock, toMilliseconds } from './clock';
import { writtenMilliseconds } from './written-time';

/** One moment, 2024-03-05T06:07:08.250Z, as each clock counts it; worked out by hand. */
const AT = Date.UTC(2024, 2, 5, 6, 7, 8, 250);
const STORED: Record<(typeof COUNTING_CLOCKS)[number], number | bigint> = {
  'seconds-1970': 1709618828.25,
  'milliseconds-1970': 1709618828250,
  'microseconds-1970': 1709618828250000,
  'nanoseconds-1970': 1709618828250000000n,
  'seconds-2001': 731311628.25,
  'nanoseconds-2001': 731311628250000000n,
  'microseconds-1601': 13354092428250000n,
  'ticks-1': 638452156282500000n
};

test('each clock counts the same moment in its own way', () => {
  assert.deepEqual(COUNTING_CLOCKS.toSorted(), Object.keys(STORED).toSorted());
  for (const clock of COUNTING_CLOCKS)
    assert.equal(toMilliseconds(STORED[clock], clock), AT, clock);
});

test('numbers that a text column keeps are read like numbers', () => {
  for (const clock of COUNTING_CLOCKS)
    assert.equal(toMilliseconds(` ${STORED[clock]} `, clock), AT, clock);
  for (const text of ['', 'soon', '12:30', '1e9', '--4', '5 6', '123456789012345678901234'])
    assert.equal(toMilliseconds(text, 'seconds-1970'), null, text);
});

test('nothing, zero and what is no number is no time', () => {
  for (const clock of COUNTING_CLOCKS)
    for (const value of [null, undefined, 0, 0n, NaN, Infinity, new Uint8Array(8)])
      assert.equal(toMilliseconds(value, clock), null, `${clock} ${String(value)}`);
});

test('small units are rounded down to the millisecond', () => {
  const last = BigInt(Date.UTC(2100, 0, 1)) * 1_000_000n - 1n;
  fc.assert(
    fc.property(fc.bigInt({ min: 1n, max: last }), (value) => {
      assert.equal(toMilliseconds(value, 'nanoseconds-1970'), Number(value / 1_000_000n));
    })
  );
  assert.equal(toMilliseconds(1999, 'microseconds-1970'), 1);
});

test('a moment at which nobody can have sent a message is no time', () => {
  for (const value of [1.7e18, -1, -1n, Number.MAX_VALUE, 2n ** 63n - 1n, '99999999999999'])
    assert.equal(toMilliseconds(value, 'milliseconds-1970'), null, String(value));
  for (const text of ['1969-12-31', '2100-01-01', '9999-01-01 00:00'])
    assert.equal(toMilliseconds(text, 'iso'), null, text);
  assert.equal(toMilliseconds('2099-12-31T23:59:59Z', 'iso'), Date.UTC(2100, 0, 1) - 1000);
});

test('dates in words: with a blank or a T, with parts of seconds, with zones', () => {
  const cases: [string, number | null][] = [
    ['2024-03-05', Date.UTC(2024, 2, 5)],
    ['2024-03-05 06:07', Date.UTC(2024, 2, 5, 6, 7)],
    ['2024-03-05T06:07:08.25Z', AT],
    ['2024-03-05T06:07:08,250 UTC', AT],
    ['2024-03-05T06:07:08.250999999+00:00', AT],
    ['2024-03-05T08:07:08.250+02:00', AT],
    ['2024-03-05T01:37:08.250-0430', AT],
    ['24-03-05 06:07', null],
    ['2024-03-05T06', null],
    ['2024-03-05 06:07:08 CET', null],
    ['on the 5th', null]
  ];
  for (const [text, expected] of cases) {
    assert.equal(writtenMilliseconds(text), expected, text);
    assert.equal(toMilliseconds(text, 'iso'), expected, text);
  }
  assert.equal(toMilliseconds(1709618828, 'iso'), null);
});

test('any moment in ISO 8601 reads back', () => {
  fc.assert(
    fc.property(
      fc.date({ noInvalidDate: true, min: new Date(0), max: new Date(253402300799999) }),
      (date) => {
        assert.equal(writtenMilliseconds(date.toISOString()), date.getTime());
      }
    )
  );
});

test('a column keeps its declared clock unless another of the same beginning fits and it does not', () => {
  const seconds = Array.from({ length: 20 }, (_, i) => 1_700_000_000 + i * 60);
  const millis = seconds.map((at) => at * 1000);
  assert.equal(settleClock(seconds, 'seconds-1970'), 'seconds-1970');
  assert.equal(settleClock(millis, 'seconds-1970'), 'milliseconds-1970');
  assert.equal(settleClock(seconds, 'milliseconds-1970'), 'seconds-1970');
  assert.equal(settleClock([700_000_000n * 1_000_000_000n], 'seconds-2001'), 'nanoseconds-2001');
  assert.equal(settleClock([700_000_000], 'nanoseconds-2001'), 'seconds-2001');
  // A few rows with another unit do not turn the column.
  assert.equal(settleClock([...seconds, ...millis.slice(0, 5)], 'seconds-1970'), 'seconds-1970');
});

test('a column of nothing, zeros or small numbers keeps its clock', () => {
  for (const values of [[], [null, null], [0, 0n], ['1700000000'], [1, 2, 3]])
    assert.equal(settleClock(values, 'milliseconds-1970'), 'milliseconds-1970');
  assert.equal(settleClock([1_700_000_000], 'iso'), 'iso');
});

test('a moment is plausible where people had such devices, and never right behind the zero', () => {
  assert.ok(isPlausible(1_700_000_000, 'seconds-1970'));
  assert.ok(!isPlausible(1_700_000_000, 'milliseconds-1970'));
  assert.ok(!isPlausible(5_000_000, 'seconds-2001'));
  assert.ok(!isPlausible(Date.UTC(2046, 0, 1), 'milliseconds-1970'));
});
