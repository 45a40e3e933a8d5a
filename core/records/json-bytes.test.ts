import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { isoTime } from './convert';
import { JsonBytes, pieceOf } from './json-bytes';

function written(write: (out: JsonBytes) => void): string {
  const out = new JsonBytes();
  write(out);
  return new TextDecoder().decode(out.take());
}

const anyText = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string({ unit: 'grapheme' }),
  fc.string()
);

test('numbers, times and texts are written as JSON writes them', () => {
  fc.assert(
    fc.property(fc.maxSafeInteger(), anyText, (number, text) => {
      assert.equal(
        written((out) => out.integer(number)),
        JSON.stringify(number)
      );
      const size = Math.abs(number);
      assert.equal(
        written((out) => out.hex(size)),
        size.toString(16)
      );
      const bytes = Buffer.from(text);
      assert.equal(
        written((out) => out.text(bytes, 0, bytes.length)),
        JSON.stringify(bytes.toString())
      );
    })
  );
  fc.assert(
    fc.property(fc.oneof(fc.maxSafeInteger(), fc.double()), (at) => {
      assert.equal(
        written((out) => out.time(at)),
        JSON.stringify(isoTime(at))
      );
    })
  );
});

test('one odd byte anywhere in a text is written as JSON writes it', () => {
  for (const length of [1, 3, 4, 5, 8, 11, 64]) {
    for (let at = 0; at < length; at++) {
      for (const odd of [0x00, 0x1f, 0x20, 0x22, 0x5c, 0x7e, 0x7f]) {
        const bytes = new Uint8Array(length).fill(0x61);
        bytes[at] = odd;
        const json = written((out) => out.text(bytes, 0, length));
        assert.equal(json, JSON.stringify(Buffer.from(bytes).toString()), `${odd} at ${at}`);
      }
    }
  }
});

test('pieces are written whole, whatever their length', () => {
  const texts = [
    ...Array.from({ length: 20 }, (_, i) => 'abcdefghijklmnopqrst'.slice(0, i)),
    ...['ÿ\u007f\uffff', '🌊\u007f\u007fé', '\u007f\ud83c\udf0a'.repeat(9)]
  ];
  const json = written((out) => texts.forEach((text) => out.piece(pieceOf(text))));
  assert.equal(json, texts.join(''));
});

test('what is written grows past its first room', () => {
  const long = Buffer.from('y'.repeat(3_000_000));
  assert.equal(written((out) => out.text(long, 0, long.length)).length, long.length + 2);
});
