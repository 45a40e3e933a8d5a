import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { reopen } from '../reopen';
import { claimedOf, HOLE, joinedRuns, RunsSource, UnclaimedSource, type Extent } from './runs';

const bytes = Uint8Array.from({ length: 1000 }, (_, i) => 1 + (i % 251));

class Medium extends MemorySource {
  readonly handle = 7;
}
const medium = new Medium('medium', bytes);

const extents = fc.array(
  fc.record({
    start: fc.oneof(fc.nat(899), fc.constant(HOLE)),
    length: fc.integer({ min: 1, max: 100 })
  }),
  { minLength: 1, maxLength: 12 }
);

const wholeOf = (runs: readonly Extent[]): Uint8Array =>
  Uint8Array.from(
    runs.flatMap(({ start, length }) =>
      start === HOLE
        ? new Array<number>(length).fill(0)
        : [...bytes.subarray(start, start + length)]
    )
  );

test('any stretch of a file in pieces is what its pieces hold, here and in another thread', () => {
  fc.assert(
    fc.property(extents, fc.nat(1300), fc.nat(1300), fc.nat(1300), (runs, size, at, length) => {
      const whole = wholeOf(runs).subarray(0, size);
      const source = new RunsSource('file', medium, runs, size);
      const again = reopen(source.handle, () => medium);
      for (const one of [source, again]) {
        assert.equal(one.size, whole.length);
        assert.deepEqual([...one.read(at, length)], [...whole.subarray(at, at + length)]);
      }
      assert.deepEqual(wholeOf(joinedRuns(runs)), wholeOf(runs));
    })
  );
});

test('what lies past the end of a medium is not there', () => {
  const source = new RunsSource(
    'file',
    medium,
    [
      { start: 990, length: 100 },
      { start: 0, length: 5 }
    ],
    105
  );
  assert.equal(source.read(0, 50).length, 10);
  assert.equal(source.read(100, 50).length, 5);
});

test('what files claim reads as zeros, all else as it is', () => {
  fc.assert(
    fc.property(extents, fc.nat(1100), fc.nat(1100), (claims, at, length) => {
      const left = bytes.slice();
      for (const { start, length } of claims)
        if (start !== HOLE) left.fill(0, start, start + length);
      const source = new UnclaimedSource('rest', medium, claimedOf(claims));
      const again = reopen(source.handle, () => medium);
      for (const one of [source, again])
        assert.deepEqual([...one.read(at, length)], [...left.subarray(at, at + length)]);
    })
  );
});
