import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { ChunkedSource, fromHex, MemoryScratch, MemorySource, SliceSource, toHex } from '.';
import type { ByteSource } from '.';

/** Larger than one chunk, so that reads cross bounds. */
const LARGE = Uint8Array.from(
  { length: (1 << 18) * 2 + 777 },
  (_, i) => (i * 31 + (i >> 8)) & 0xff
);

const range = fc.tuple(fc.nat(LARGE.length + 10), fc.nat(1 << 19));

function readsAlike(source: ByteSource, expected: Uint8Array): void {
  fc.assert(
    fc.property(range, ([offset, length]) => {
      const read = source.read(offset, length);
      const slice = expected.subarray(offset, offset + length);
      assert.ok(Buffer.from(read).equals(slice), `${offset}, ${length}`);
    }),
    { numRuns: 200 }
  );
}

test('chunks give what the source gives, however few are kept', () => {
  for (const kept of [1, 2, 64])
    readsAlike(new ChunkedSource(new MemorySource('a', LARGE), kept), LARGE);
});

test('chunks are read once while they are kept', () => {
  let reads = 0;
  const inner = new MemorySource('a', LARGE);
  const counted: ByteSource = {
    name: 'a',
    size: LARGE.length,
    read: (offset, length) => (reads++, inner.read(offset, length))
  };
  const chunked = new ChunkedSource(counted, 2);
  for (let i = 0; i < 100; i++) chunked.read(i * 7, 5);
  assert.equal(reads, 1);
  chunked.read(1 << 18, 4);
  chunked.read(1 << 19, 4);
  assert.equal(reads, 3);
  chunked.read(1 << 19, 4);
  assert.equal(reads, 3, 'the chunk that was used last is kept');
  chunked.read(0, 4);
  assert.equal(reads, 4, 'the one that was used least recently went');
});

test('a source that ends early gives what is there', () => {
  const short: ByteSource = {
    name: 'cut',
    size: LARGE.length,
    read: (offset, length) => LARGE.subarray(offset, Math.min(offset + length, 300_000))
  };
  const read = new ChunkedSource(short).read(299_990, 100);
  assert.deepEqual([...read], [...LARGE.subarray(299_990, 300_000)]);
});

test('a slice reads within its bounds alone', () => {
  const inner = new MemorySource('a', LARGE);
  fc.assert(
    fc.property(fc.nat(1000), fc.nat(2000), range, (start, size, [offset, length]) => {
      const slice = new SliceSource('part', inner, start, size);
      const expected = LARGE.subarray(start, start + size).subarray(offset, offset + length);
      assert.ok(Buffer.from(slice.read(offset, length)).equals(expected));
    })
  );
  assert.equal(new SliceSource('past', inner, LARGE.length + 5, 10).size, 0);
  assert.equal(new SliceSource('end', inner, LARGE.length - 5, 10).size, 5);
});

test('scratch gives back what was written, and does not see later changes', () => {
  fc.assert(
    fc.property(fc.array(fc.uint8Array({ maxLength: 40 }), { maxLength: 10 }), (parts) => {
      const scratch = new MemoryScratch();
      const expected = Buffer.concat(parts);
      for (const part of parts) {
        scratch.write(part);
        part.fill(0xee);
      }
      const source = scratch.finish('unpacked');
      assert.equal(source.size, expected.length);
      assert.ok(Buffer.from(source.read(0, expected.length + 5)).equals(expected));
    })
  );
});

test('hexadecimal text reads back; what is none is refused', () => {
  fc.assert(
    fc.property(fc.uint8Array(), (bytes) => {
      const text = toHex(bytes);
      assert.equal(text, Buffer.from(bytes).toString('hex'));
      assert.deepEqual(fromHex(text.toUpperCase()), bytes);
    })
  );
  for (const text of ['0', 'xx', '0x12', '12 34', '1g']) assert.equal(fromHex(text), null, text);
});
