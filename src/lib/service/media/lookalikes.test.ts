import assert from 'node:assert/strict';
import { test } from 'node:test';
import { distance, fingerprint, standingFor } from './lookalikes';

/** A picture whose brightness a function tells, as the canvas gives it. */
function picture(brightness: (x: number, y: number) => number): ImageData {
  const data = new Uint8ClampedArray(64 * 64 * 4);
  for (let y = 0; y < 64; y++)
    for (let x = 0; x < 64; x++) {
      const value = brightness(x, y);
      data.set([value, value, value, 255], (y * 64 + x) * 4);
    }
  return { width: 64, height: 64, data, colorSpace: 'srgb' } as ImageData;
}

/** Sky and sea that grow paler towards a side, as in pictures from nature. */
const boat = (x: number, y: number): number =>
  (y > 40 ? 20 + y * 0.7 : 150 - y) + x * 0.9 + (Math.abs(x - 30) < 9 ? 50 : 0);
const shore = (x: number, y: number): number => (x + y > 64 ? 210 : 30) + (x % 16 > 8 ? 30 : 0);

test('a paler, noisier copy of a picture looks alike, another picture does not', () => {
  const own = fingerprint(picture(boat));
  const copy = fingerprint(picture((x, y) => boat(x, y) * 0.8 + 20 + ((x * 7 + y * 3) % 5)));
  const other = fingerprint(picture(shore));
  assert.ok(distance(own, copy) <= 6, `${distance(own, copy)} bits differ`);
  assert.ok(distance(own, other) > 12, `${distance(own, other)} bits differ`);
  assert.equal(distance(own, own), 0);
});

test('each picture stands for what it resembles itself, not for what resembles that', () => {
  const pictures = [0, 0b11, 0b1111].map((low, i) => ({
    key: `p${i}`,
    print: [0, low] as [number, number]
  }));
  assert.deepEqual([...standingFor(pictures, 2)], [['p1', 'p0']]);
  assert.deepEqual(
    [...standingFor(pictures, 4)],
    [
      ['p1', 'p0'],
      ['p2', 'p0']
    ]
  );
  assert.deepEqual([...standingFor(pictures, 1)], []);
});

test('bits are counted over all 64', () => {
  assert.equal(distance([0xffffffff, 0], [0, 0xffffffff]), 64);
  assert.equal(distance([0x80000000, 1], [0, 0]), 2);
});
