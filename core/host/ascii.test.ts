import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { isPrintable } from '.';

/** Texts around the lengths at which a word of four bytes is full. */
const text = fc.oneof(
  fc.uint8Array({ maxLength: 24 }),
  fc.uint8Array({ min: 0x1e, max: 0x80, maxLength: 24 }),
  fc.uint8Array({ min: 0x20, max: 0x7e, maxLength: 24 })
);

test('text is printable when each of its bytes is', () => {
  fc.assert(
    fc.property(text, (bytes) => {
      const slowly = bytes.every((byte) => byte >= 0x20 && byte < 0x7f);
      assert.equal(isPrintable(bytes, 0, bytes.length), slowly);
    }),
    { numRuns: 2000 }
  );
});

test('one odd byte anywhere in a long text is seen', () => {
  for (const length of [1, 3, 4, 5, 63, 64, 5000, 70_001]) {
    const bytes = new Uint8Array(length).fill(0x61);
    assert.ok(isPrintable(bytes, 0, bytes.length), `${length}`);
    for (const at of new Set([0, 1, length >> 1, length - 2, length - 1])) {
      if (at < 0 || at >= length) continue;
      for (const odd of [0x00, 0x1f, 0x80, 0xff]) {
        bytes[at] = odd;
        assert.ok(!isPrintable(bytes, 0, bytes.length), `${odd} at ${at} of ${length}`);
      }
      bytes[at] = 0x61;
    }
  }
});
