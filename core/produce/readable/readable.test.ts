import assert from 'node:assert/strict';
import { test } from 'node:test';
import jpeg from 'jpeg-js';
import { pictureModules } from '../../../cli/picture-modules';
import { produced } from '../../tests/produced';
import { caseWithSamples, PICTURES, sample, SOUNDS } from '../../tests/samples';
import { needsCopy, readableCopy, UnreadableError } from '.';

for (const [name, mime] of PICTURES)
  test(`${name} becomes a picture that every program opens`, async () => {
    const copy = await readableCopy(sample(name), mime, pictureModules);
    assert.equal(copy!.mime, 'image/jpeg');
    const { width, height, data } = jpeg.decode(copy!.bytes, { useTArray: true });
    assert.deepEqual([width, height], [96, 64]);
    // The first pixel was drawn as (185, 55, 0).
    const [red, green, blue] = [data[0]!, data[1]!, data[2]!];
    assert.ok(red > 150 && green < 110 && blue < 60, `${red} ${green} ${blue}`);
  });

for (const [name, mime, rate] of SOUNDS)
  test(`${name} becomes a recording that every program plays`, async () => {
    const copy = await readableCopy(sample(name), mime, pictureModules);
    const view = new DataView(copy!.bytes.buffer, copy!.bytes.byteOffset);
    assert.equal(copy!.mime, 'audio/wav');
    assert.equal(view.getUint32(24, true), rate);
    const seconds = view.getUint32(40, true) / 2 / rate;
    assert.ok(Math.abs(seconds - 1) < 0.05, `${seconds}`);
    const samples = Array.from({ length: rate / 2 }, (_, i) =>
      view.getInt16(44 + (rate / 4 + i) * 2, true)
    );
    // A tone of 440 Hz crosses zero 880 times a second.
    const crossings = samples.filter((value, i) => i > 0 && value > 0 !== samples[i - 1]! > 0);
    assert.ok(Math.abs(crossings.length * 2 - 880) < 40, `${crossings.length * 2}`);
  });

test('broken files are told as such, others are left as they are', async () => {
  for (const [name, mime] of [...PICTURES, ...SOUNDS]) {
    if (mime === 'audio/ogg') continue;
    const bytes = sample(name).slice(0, 9);
    await assert.rejects(readableCopy(bytes, mime, pictureModules), UnreadableError, name);
  }
  assert.equal(needsCopy('image/jpeg', sample('picture.heic')), false);
  assert.equal(needsCopy('audio/ogg', new Uint8Array(100)), false);
});

test('a package holds originals and copies; without conversion originals alone', async () => {
  const made = caseWithSamples(false);
  const whole = await produced(made, { formats: ['media', 'html'] });
  const copies = [...whole.files.keys()].filter((path) => path.startsWith('data/media/readable/'));
  assert.equal(copies.length, 6, copies.join());
  assert.equal(
    [...whole.files.keys()].filter((path) => /^data\/media\/[^/]+$/.test(path)).length,
    6
  );
  const shown = [...whole.files.keys()].filter((path) => path.startsWith('data/pages/media/'));
  assert.ok(
    shown.some((path) => /picture\.jpg$/.test(path)),
    shown.join()
  );
  assert.ok(!shown.some((path) => /\.(heic|amr)$/.test(path)), shown.join());
  const plain = await produced(made, { formats: ['media'], convertMedia: false });
  assert.ok(![...plain.files.keys()].some((path) => path.includes('readable')));
});

test('what cannot be converted is named', async () => {
  const { text } = await produced(caseWithSamples(true), { formats: ['media'] });
  const { notConverted } = JSON.parse(text('data/production.json')) as {
    notConverted: { name: string; reason: string }[];
  };
  assert.ok(notConverted.some(({ name }) => name.endsWith('.heic')));
  assert.match(text('data/README.txt'), /no readable copy could be made/);
});

test('an area of a picture of any of these formats is painted over, on a copy', async () => {
  const made = caseWithSamples(false);
  const [heic] = made.findings.attachments;
  const { files } = await produced(made, {
    formats: ['media'],
    redactions: [
      {
        attachment: heic!.id,
        area: { x: 0, y: 0, width: 1, height: 1 },
        code: 'ID'
      }
    ]
  });
  const painted = [...files].filter(
    ([path]) => /picture[^/]*\.jpg$/.test(path) && !path.includes('readable')
  );
  assert.equal(painted.length, 1);
  const { data } = jpeg.decode(painted[0]![1], { useTArray: true });
  assert.ok(data[0]! < 60 && data[1]! < 60);
  for (const [path, bytes] of files)
    assert.ok(
      !Buffer.from(bytes).includes(Buffer.from(sample('picture.heic').slice(200, 400))),
      path
    );
});
