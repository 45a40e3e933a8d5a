import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { hashAscii, hashText, NumberIndex } from '.';

const key = fc.oneof(
  fc.integer({ min: -3, max: 12 }),
  fc.double(),
  fc.constantFrom(NaN, 0, 2 ** 53, -(2 ** 53), Infinity)
);

test('every place of a number is found, upwards, and no other', () => {
  fc.assert(
    fc.property(fc.array(key, { maxLength: 80 }), key, (keys, asked) => {
      const index = new NumberIndex(Float64Array.from(keys));
      for (const wanted of [...keys, asked]) {
        const expected = keys.flatMap((found, at) => (Object.is(found, wanted) ? [at] : []));
        assert.deepEqual([...index.all(wanted)], expected);
        assert.equal(index.find(wanted), expected[0] ?? -1);
      }
    })
  );
});

test('a number is looked for behind a place', () => {
  const index = new NumberIndex(Float64Array.from([7, 8, 7, 7, NaN, NaN]));
  assert.deepEqual([index.find(7), index.find(7, 0), index.find(7, 2)], [0, 2, 3]);
  assert.deepEqual([index.find(7, 3), index.find(9)], [-1, -1]);
  assert.deepEqual([...index.all(NaN)], [4, 5]);
});

test('an index of nothing finds nothing', () => {
  const index = new NumberIndex(new Float64Array(0));
  assert.equal(index.find(0), -1);
  assert.deepEqual([...index.all(NaN)], []);
});

test('plain text hashes alike as a string and as bytes; other bytes have to be decoded', () => {
  fc.assert(
    fc.property(fc.string(), fc.nat(5), fc.nat(5), (text, before, after) => {
      const bytes = Buffer.concat([
        Buffer.alloc(before, 1),
        Buffer.from(text),
        Buffer.alloc(after)
      ]);
      const hash = hashAscii(bytes, before, bytes.length - after);
      if (/^[\0-\x7f]*$/.test(text)) assert.equal(hash, hashText(text));
      else assert.ok(Number.isNaN(hash));
    })
  );
});

test('hashes are whole numbers that can be told exactly, and tell texts apart', () => {
  const seen = new Set<number>();
  for (let i = 0; i < 50_000; i++) {
    const hash = hashText(`message ${i} of the mooring list`);
    assert.ok(Number.isSafeInteger(hash) && hash >= 0);
    seen.add(hash);
  }
  assert.equal(seen.size, 50_000);
});
