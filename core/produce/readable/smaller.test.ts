import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import jpeg from 'jpeg-js';
import { nativePrinter } from '../../../cli/print';
import { pictureModules } from '../../../cli/picture-modules';
import { jpegOf, madeCase, pngOf } from '../../tests/production-case';
import { produced } from '../../tests/produced';
import { scaled, smallerPicture } from './smaller';

/** A JPEG that says that the camera was held on its side (Exif 2.3, tag 0x0112). */
function turnedJpeg(bytes: Uint8Array, orientation: number): Uint8Array {
  const exif = [
    ...[0xff, 0xe1, 0, 34, 0x45, 0x78, 0x69, 0x66, 0, 0],
    ...[0x4d, 0x4d, 0, 42, 0, 0, 0, 8, 0, 1],
    ...[0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, orientation, 0, 0, 0, 0, 0, 0]
  ];
  return Uint8Array.from([...bytes.subarray(0, 2), ...exif, ...bytes.subarray(2)]);
}

test('pixels become the mean of those that they stand for', () => {
  const data = Uint8ClampedArray.from(
    [0, 100, 200, 50].flatMap((value) => [value, value, value, 255])
  );
  const small = scaled({ width: 4, height: 1, data }, 0.5);
  assert.deepEqual([small.width, small.height], [2, 1]);
  assert.deepEqual([...small.data], [50, 50, 50, 255, 125, 125, 125, 255]);
  assert.equal(scaled({ width: 4, height: 1, data }, 2).width, 4);
});

test('large pictures are scaled down the right way up', async () => {
  const wide = jpegOf(400, 200, 3);
  const plain = await smallerPicture(wide, 'image/jpeg', 100, 'plain', pictureModules);
  const turned = await smallerPicture(
    turnedJpeg(wide, 6),
    'image/jpeg',
    100,
    'turned',
    pictureModules
  );
  const sizes = [plain, turned].map((copy) => {
    const { width, height } = jpeg.decode(copy!.bytes, { useTArray: true });
    return [width, height];
  });
  assert.deepEqual(sizes, [
    [100, 50],
    [50, 100]
  ]);
  const png = await smallerPicture(pngOf(300, 300, 2), 'image/png', 30, 'png', pictureModules);
  assert.equal(jpeg.decode(png!.bytes, { useTArray: true }).width, 30);
  const broken = wide.slice(0, 60);
  assert.equal(await smallerPicture(broken, 'image/jpeg', 30, 'broken', pictureModules), null);
});

test('a record with a large picture is small, and the file goes along as it is', async () => {
  const made = madeCase({ messages: 10, pictureEvery: 0, hard: false });
  // Noise: what no encoder makes small.
  const [width, height] = [2400, 1600];
  const data = new Uint8Array(width * height * 4);
  for (let i = 0, seed = 7; i < data.length; i++)
    data[i] = (seed = (seed * 1103515245 + 12345) >>> 0) >>> 24;
  const bytes = Uint8Array.from(jpeg.encode({ width, height, data }, 90).data);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  made.files.set(sha256, bytes);
  const [message] = made.findings.messages;
  message!.attachments = ['big'];
  made.findings.attachments.push({
    id: 'big',
    message: message!.id,
    name: 'big.jpg',
    mime: 'image/jpeg',
    bytes: bytes.length,
    sha256,
    state: 'live',
    path: 'big.jpg',
    width,
    height,
    seconds: null,
    thumbnail: null
  });
  const { files } = await produced(made, { formats: ['pdf', 'media'] }, { print: nativePrinter() });
  const pdf = files.get('data/record.pdf')!;
  assert.ok(pdf.length < bytes.length / 2, `${pdf.length} of ${bytes.length}`);
  const original = [...files].find(([path]) => /^data\/media\/.*big\.jpg$/.test(path))!;
  assert.equal(original[1].length, bytes.length);
});
