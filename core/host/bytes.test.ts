import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import {
  byteText,
  ByteRangeError,
  ChunkedSource,
  decodeStrict,
  decodeText,
  intBe,
  isPlausibleText,
  MemorySource,
  readExactly,
  readVarint,
  readVarintSigned,
  textBytes,
  varintSize
} from '.';

/** The encoding as the file format's section 1.6 describes it, written the slow way. */
function encodeVarint(value: bigint): Uint8Array {
  const unsigned = BigInt.asUintN(64, value);
  if (unsigned >= 1n << 56n) {
    const bytes = [Number(unsigned & 0xffn)];
    for (let rest = unsigned >> 8n, i = 0; i < 8; i++, rest >>= 7n) {
      bytes.unshift(Number(rest & 0x7fn) | 0x80);
    }
    return Uint8Array.from(bytes);
  }
  const bytes = [Number(unsigned & 0x7fn)];
  for (let rest = unsigned >> 7n; rest > 0n; rest >>= 7n)
    bytes.unshift(Number(rest & 0x7fn) | 0x80);
  return Uint8Array.from(bytes);
}

test('a varint reads back, and its size is the shortest', () => {
  fc.assert(
    fc.property(fc.bigInt({ min: 0n, max: (1n << 53n) - 1n }), (value) => {
      const bytes = encodeVarint(value);
      const read = readVarint(bytes, 0, bytes.length, { value: 0, size: 0 });
      assert.deepEqual(read, { value: Number(value), size: bytes.length });
      assert.equal(varintSize(Number(value)), bytes.length);
    })
  );
});

test('a signed varint reads back over the whole 64-bit range', () => {
  fc.assert(
    fc.property(fc.bigInt({ min: -(1n << 63n), max: (1n << 63n) - 1n }), (value) => {
      const bytes = encodeVarint(value);
      const read = readVarintSigned(bytes, 0, bytes.length);
      assert.equal(BigInt(read.value), value);
      assert.equal(read.size, bytes.length);
    })
  );
});

test('a varint that is cut has size 0 and never reads past its end', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 12 }), fc.nat(12), (bytes, end) => {
      const limit = Math.min(end, bytes.length);
      const { size } = readVarint(bytes, 0, limit, { value: 0, size: 0 });
      assert.ok(size <= limit && size <= 9);
    })
  );
});

test('integers of each width read back', () => {
  const cases: [number[], number, number | bigint][] = [
    [[0x80], 1, -128],
    [[0x7f, 0xff], 2, 32767],
    [[0xff, 0xff, 0xfe], 3, -2],
    [[0x80, 0, 0, 0], 4, -2147483648],
    [[0x01, 0x9c, 0xdf, 0x1a, 0x4e, 0x80], 6, 1773269569152],
    [[0xff, 0xff, 0xff, 0xff, 0xff, 0xff], 6, -1],
    [[0, 0x1f, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff], 8, Number.MAX_SAFE_INTEGER],
    [[0x7f, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff], 8, (1n << 63n) - 1n],
    [[0x80, 0, 0, 0, 0, 0, 0, 0], 8, -(1n << 63n)]
  ];
  for (const [bytes, size, value] of cases) {
    assert.equal(intBe(Uint8Array.from(bytes), 0, size), value);
  }
});

test('a chunked source gives the same bytes as the source inside it', () => {
  const bytes = Uint8Array.from({ length: 700_000 }, (_, i) => (i * 31) & 0xff);
  const inner = new MemorySource('a', bytes);
  const chunked = new ChunkedSource(inner, 2);
  fc.assert(
    fc.property(fc.nat(720_000), fc.nat(600_000), (offset, length) => {
      assert.deepEqual(chunked.read(offset, length), inner.read(offset, length));
    }),
    { numRuns: 60 }
  );
});

test('asking for more than is there names both amounts', () => {
  const source = new MemorySource('short', new Uint8Array(10));
  assert.throws(
    () => readExactly(source, 8, 4),
    (error: unknown) =>
      error instanceof ByteRangeError &&
      error.wanted === 4 &&
      error.available === 2 &&
      error.offset === 8
  );
});

test('text decodes exactly, marks and byte order marks included', () => {
  for (const text of ['plain', '', '\ufeffmark', 'ελληνικά 🛶', 'a\u0000b', '👨‍👩‍👧‍👦']) {
    assert.equal(decodeText(new TextEncoder().encode(text), 'utf-8'), text);
    const little = Buffer.from(text, 'utf16le');
    assert.equal(decodeText(little, 'utf-16le'), text);
    assert.equal(decodeText(Buffer.from(little).swap16(), 'utf-16be'), text);
  }
  assert.equal(decodeStrict(Uint8Array.of(0xc3, 0x28), 'utf-8'), null);
  assert.equal(isPlausibleText('two\nlines\t'), true);
  assert.equal(isPlausibleText('bell\u0007'), false);
});

test('bytes and the text of their numbers turn into each other, whatever they are', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
      const text = byteText(bytes);
      assert.deepEqual(
        [...text].map((sign) => sign.charCodeAt(0)),
        [...bytes]
      );
      assert.deepEqual(textBytes(text), bytes);
    })
  );
  // Longer than what is widened at once.
  const long = new Uint8Array((1 << 20) + 3).map((_, i) => i * 7);
  assert.deepEqual(textBytes(byteText(long)), long);
});
