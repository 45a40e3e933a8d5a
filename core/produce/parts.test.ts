import assert from 'node:assert/strict';
import { test } from 'node:test';
import { decode as decodePng } from 'fast-png';
import fc from 'fast-check';
import jpeg from 'jpeg-js';
import { brokenLink, chained, type CustodyEntry } from '../custody';
import { jpegOf, pngOf } from '../tests/production-case';
import { pictureModules } from '../../cli/picture-modules';
import { coverAreas } from './readable/cover';
import { orientationOf } from './readable/picture-size';
import { shown, withBars } from './parts';
import { Coverage } from './pdf/coverage';
import { volumesOf } from './pdf/volumes';
import { partsOf, type ProductionSection } from './model';

const span = fc.record({ from: fc.nat(40), to: fc.nat(40), code: fc.constantFrom('A', 'B') });

test('bars cover every letter of their spans, whole characters, and nothing else', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme', maxLength: 30 }),
      fc.array(span, { maxLength: 5 }),
      (text, spans) => {
        const parts = withBars(text, spans);
        const left = parts.map((part) => ('text' in part ? part.text : '')).join('');
        assert.ok(left.isWellFormed() || !text.isWellFormed(), 'no half of a character is left');
        const covered = (i: number): boolean =>
          spans.some(({ from, to }) => from < to && i >= from && i < to);
        // Characters of several units are covered whole, wherever a span begins in them.
        const isPlain = [...new Intl.Segmenter('en').segment(text)].length === text.length;
        const kept = isPlain ? [...text].filter((_, i) => !covered(i)).join('') : null;
        if (kept !== null) assert.equal(left, kept);
        if (spans.every(({ from, to }) => from >= to || from >= text.length))
          assert.equal(shown(parts), text);
      }
    )
  );
});

test('an area of a picture is black after it is covered, and the rest is as it was', async () => {
  const area = { x: 0.25, y: 0.5, width: 0.25, height: 0.25, code: 'ID' };
  for (const [mime, bytes] of [
    ['image/png', pngOf(64, 32, 3)],
    ['image/jpeg', jpegOf(64, 32, 3)]
  ] as const) {
    const covered = (await coverAreas(bytes, mime, [area], pictureModules))!;
    const image =
      mime === 'image/png' ? decodePng(covered) : jpeg.decode(covered, { useTArray: true });
    const original =
      mime === 'image/png' ? decodePng(bytes) : jpeg.decode(bytes, { useTArray: true });
    const at = (x: number, y: number): number[] =>
      [...image.data.slice((y * 64 + x) * 4, (y * 64 + x) * 4 + 3)].map(Number);
    const tolerance = mime === 'image/png' ? 0 : 30;
    for (const value of at(24, 20)) assert.ok(value <= tolerance, `${mime} ${value}`);
    at(60, 4).forEach((value, c) =>
      assert.ok(Math.abs(value - Number(original.data[(4 * 64 + 60) * 4 + c])) <= tolerance)
    );
  }
  for (const mime of ['image/jpeg', 'image/heic'])
    assert.equal(await coverAreas(new Uint8Array(40), mime, [area], pictureModules), null);
});

/** A JPEG with an Exif block that says how the camera was held. */
function heldAs(bytes: Uint8Array, orientation: number): Uint8Array {
  const tiff = [
    0x4d,
    0x4d,
    0,
    42,
    0,
    0,
    0,
    8,
    0,
    1,
    1,
    0x12,
    0,
    3,
    0,
    0,
    0,
    1,
    0,
    orientation,
    0,
    0,
    0,
    0,
    0,
    0
  ];
  const body = [0x45, 0x78, 0x69, 0x66, 0, 0, ...tiff];
  const length = body.length + 2;
  return Uint8Array.from([
    0xff,
    0xd8,
    0xff,
    0xe1,
    length >> 8,
    length & 255,
    ...body,
    ...bytes.subarray(2)
  ]);
}

test('a covered picture stands as it is seen, whatever way the camera was held', async () => {
  for (let orientation = 1; orientation <= 8; orientation++) {
    const held = heldAs(jpegOf(32, 16, 1), orientation);
    assert.equal(orientationOf(held), orientation);
    const area = { x: 0, y: 0, width: 0.5, height: 0.5, code: 'X' };
    const covered = (await coverAreas(held, 'image/jpeg', [area], pictureModules))!;
    const image = jpeg.decode(covered, { useTArray: true });
    assert.deepEqual([image.width, image.height], orientation >= 5 ? [16, 32] : [32, 16]);
    assert.ok(!Buffer.from(covered).includes('Exif'), 'what stood beside the pixels is gone');
    assert.ok(image.data[0]! < 40 && image.data[1]! < 40);
  }
});

test('a log holds until one of its entries is touched', () => {
  const act = fc.record({
    what: fc.string({ maxLength: 12 }),
    detail: fc.dictionary(fc.string({ maxLength: 5 }), fc.integer())
  });
  fc.assert(
    fc.property(fc.array(act, { minLength: 1, maxLength: 6 }), fc.nat(), (acts, pick) => {
      const log: CustodyEntry[] = [];
      for (const { what, detail } of acts)
        log.push(
          chained({ at: '2026-11-27T12:00:00.000Z', what, detail }, log[log.length - 1] ?? null)
        );
      const lines = log.map((entry) => JSON.stringify(entry));
      assert.equal(brokenLink(lines.join('\n')), null);
      const at = pick % lines.length;
      const changed = lines.map((line, i) =>
        i === at ? JSON.stringify({ ...log[i], what: `${log[i]!.what}.` }) : line
      );
      assert.equal(brokenLink(changed.join('\n'))!.line, at + 1);
      if (at < lines.length - 1)
        assert.notEqual(brokenLink(lines.filter((_, i) => i !== at).join('\n')), null);
    })
  );
});

test('long conversations go on in the next volume, and no line is lost or doubled', () => {
  fc.assert(
    fc.property(
      fc.array(fc.nat(30), { maxLength: 6 }),
      fc.integer({ min: 1, max: 12 }),
      (sizes, most) => {
        let id = 0;
        const sections = sizes.map((size, i) => {
          const records = Array.from({ length: size }, () => ({ id: String(id++) }));
          return i % 2 === 0
            ? { kind: 'thread', thread: { id: String(i), lines: records, gapsAtEnd: [] } }
            : { kind: 'calls', calls: records };
        }) as unknown as ProductionSection[];
        const volumes = volumesOf(sections, most);
        const held = (volume: ProductionSection[]): string[] => {
          return volume.flatMap((section) => {
            const { threads, calls } = partsOf([section]);
            return [...threads.flatMap((thread) => thread.lines), ...calls].map(
              (record) => record.id
            );
          });
        };
        const lines = volumes.flatMap(held);
        assert.deepEqual(
          lines,
          Array.from({ length: id }, (_, i) => String(i))
        );
        for (const volume of volumes) assert.ok(held(volume).length <= most);
      }
    )
  );
});

test('bytes that are no font have no characters', () => {
  assert.equal(new Coverage(new Uint8Array(64)).has(65), false);
});
