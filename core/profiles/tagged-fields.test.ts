import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { taggedField, taggedPaths } from './tagged-fields';

/** Writes a base-128 number. */
function base128(value: number): number[] {
  const bytes: number[] = [];
  let rest = value;
  for (; rest > 127; rest = Math.floor(rest / 128)) bytes.push((rest % 128) | 128);
  return [...bytes, rest];
}

function wrapped(field: number, bytes: readonly number[]): number[] {
  return [...base128(field * 8 + 2), ...base128(bytes.length), ...bytes];
}

const utf8 = (text: string): number[] => [...new TextEncoder().encode(text)];

test('a text is found by the numbers on the way to it, however long it is', () => {
  const texts = ['a', 'ten letters', 'x'.repeat(31), 'x'.repeat(32), 'long '.repeat(400), '\nline'];
  for (const text of texts) {
    const bytes = Uint8Array.from([
      ...[8, 1],
      ...wrapped(4, wrapped(2, wrapped(1, utf8(text)))),
      56,
      0
    ]);
    assert.equal(taggedField(bytes, [4, 2, 1]), text);
    assert.equal(taggedField(bytes, [1]), 1);
    assert.equal(taggedField(bytes, [4, 3, 1]), null);
    const paths = taggedPaths(bytes).map(String);
    assert.ok(paths.includes('4,2,1'), `${text.slice(0, 20)}: ${paths.join(' ')}`);
  }
});

test('numbers are signed and exact', () => {
  const negative = Uint8Array.from([8, ...Array<number>(9).fill(255), 1]);
  assert.equal(taggedField(negative, [1]), -1);
  assert.equal(
    taggedField(Uint8Array.from([8, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x40]), [1]),
    2n ** 55n
  );
});

test('what was written under any numbers is read back', () => {
  const way = fc.array(fc.integer({ min: 1, max: 500 }), { minLength: 1, maxLength: 5 });
  fc.assert(
    fc.property(
      way,
      fc.string({ unit: 'grapheme', minLength: 1, maxLength: 300 }),
      (path, text) => {
        const plain = text.replace(/[\p{Cc}\p{Cn}\ufffd-\uffff]/gu, '.');
        const bytes = [...path]
          .reverse()
          .reduce((inner, field) => wrapped(field, inner), utf8(plain));
        assert.equal(taggedField(Uint8Array.from(bytes), path), plain);
      }
    )
  );
});

test('no bytes make the reader fail, and every way that it names leads somewhere', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), (bytes) => {
      for (const path of taggedPaths(bytes)) assert.notEqual(taggedField(bytes, path), null);
    }),
    { numRuns: 500 }
  );
});
