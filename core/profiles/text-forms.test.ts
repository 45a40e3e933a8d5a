import assert from 'node:assert/strict';
import { gzipSync } from 'node:zlib';
import { test } from 'node:test';
import fc from 'fast-check';
import { textOfMarkup } from './markup';
import { textOfBytes } from './packed-text';
import { textOfTypedStream } from './typed-stream';

test('a body kept as markup reads as people saw it', () => {
  const cases: [string, string][] = [
    ['plain words', 'plain words'],
    ['tide &amp; time', 'tide & time'],
    ['&lt;3 &quot;yes&quot; &#128024;', '<3 "yes" \u{1f418}'],
    ['<b>bold</b> and <i>not</i>', 'bold and not'],
    ['one<br/>two<br>three', 'one\ntwo\nthree'],
    ['<p>first</p><p>second</p>', 'first\nsecond'],
    ['<DIV>loud</DIV>', 'loud'],
    ['<ul><li>rope</li><li>tar</li></ul>', 'rope\ntar'],
    ['5 < 6 and 7 > 2', '5 < 6 and 7 > 2'],
    ['<legacyquote>[10:02] old words</legacyquote>new words', 'new words'],
    ['<script>alert(1)</script>seen', 'seen'],
    ['<a href="https://quay.example">the list</a>', 'the list']
  ];
  for (const [markup, text] of cases) assert.equal(textOfMarkup(markup), text, markup);
});

test('a body of named fields gives its title and description, each once', () => {
  const message =
    '<?xml version="1.0"?><msg><appmsg><title>Tide table</title><des>High water &amp; low</des><size>12</size></appmsg></msg>';
  assert.equal(textOfMarkup(message), 'Tide table\nHigh water & low');
  assert.equal(textOfMarkup('<msg><title>Same</title><content>Same</content></msg>'), 'Same');
  // Without a field that says anything the body stays as it is.
  const bare = '<msg><voice length="200"/></msg>';
  assert.equal(textOfMarkup(bare), bare);
});

test('text without markup is never changed, and no markup makes the reader fail', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      const out = textOfMarkup(text);
      if (!/[<&]/.test(text)) assert.equal(out, text);
      assert.ok(out.length <= text.length, 'nothing is added');
    })
  );
  fc.assert(
    fc.property(
      fc.array(
        fc.constantFrom('<', '>', '</', 'b', 'msg', '&', ';', '"', ' ', 'x', '<legacyquote')
      ),
      (parts) => {
        const markup = parts.join('');
        assert.ok(textOfMarkup(markup).length <= markup.length);
      }
    )
  );
});

/** An archive with a string of that length form: 1, 2 or 4 bytes of length. */
function archive(text: string, name: string, size: 1 | 2 | 4): Uint8Array {
  const body = Buffer.from(text);
  const length = Buffer.alloc(5);
  if (size === 1) length.writeUInt8(body.length);
  else if (size === 2) {
    length.writeUInt8(0x81);
    length.writeUInt16LE(body.length, 1);
  } else {
    length.writeUInt8(0x82);
    length.writeUInt32LE(body.length, 1);
  }
  const head = Buffer.from(`\u0004\u000bstreamtyped\u0084\u0084${name}\u0001\u0094`, 'latin1');
  const tail = Buffer.from([0x86, 0x84, 0x02, 0x69, 0x49]);
  return Buffer.concat([
    head,
    Buffer.from([0x84, 0x01, 0x2b]),
    length.subarray(0, size === 1 ? 1 : size + 1),
    body,
    tail
  ]);
}

test('an archived string of either class, with its length in any form, gives its wording', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme', maxLength: 40 }),
      fc.constantFrom('NSString', 'NSMutableString'),
      fc.constantFrom(1 as const, 2 as const, 4 as const),
      (text, name, size) => {
        if (size === 1 && Buffer.byteLength(text) >= 0x80) return;
        assert.equal(textOfTypedStream(archive(text, name, size)), text);
      }
    )
  );
});

test('an archive that is cut or damaged gives nothing or text, and is never read past its end', () => {
  const whole = archive('the mooring list is on the wall', 'NSString', 2);
  const end = whole.length - 5;
  for (let cut = 0; cut < end; cut++) assert.equal(textOfTypedStream(whole.subarray(0, cut)), null);
  fc.assert(
    fc.property(fc.nat(whole.length - 1), fc.nat(255), (at, byte) => {
      const damaged = whole.slice();
      damaged[at] = byte;
      const text = textOfTypedStream(damaged);
      assert.ok(text === null || text.length <= damaged.length);
    })
  );
  assert.equal(textOfTypedStream(new Uint8Array(0)), null);
});

test('a packed value may claim any size: no more is made of it than a text can have', () => {
  const honest = gzipSync(Buffer.from('The tide turns at six.'));
  const claims = Uint8Array.from(honest);
  claims.fill(0xff, claims.length - 4);
  assert.equal(textOfBytes(claims, 'packed'), 'The tide turns at six.');
  const huge = gzipSync(Buffer.alloc(64 << 20, 'a'));
  assert.equal(textOfBytes(huge, 'packed'), null);
});
