import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import fc from 'fast-check';
import { zipSync } from 'fflate';
import { writeDisk } from '../../../bench/writers/disk';
import { picture } from '../../../demo/more/pictures';
import { MemorySource } from '../../host';
import { carveByContent, fileAt, type CarvedFile } from './index';

const SAMPLES = join(import.meta.dirname, '../../tests/samples');
const AT = Date.UTC(2026, 2, 1);

function carved(bytes: Uint8Array): CarvedFile[] {
  const work = carveByContent(new MemorySource('m', bytes));
  for (let step = work.next(); ; step = work.next()) if (step.done) return step.value.files;
}

/** A short file of each format, to its last byte. */
function bits(): Record<string, Buffer> {
  const riff = Buffer.alloc(40);
  riff.write('RIFF');
  riff.writeUInt32LE(32, 4);
  riff.write('WEBPVP8L', 8);
  const gif = Buffer.concat([
    Buffer.from('GIF89a\x01\x00\x01\x00\x80\x00\x00', 'latin1'),
    Buffer.alloc(6),
    Buffer.from('2c00000000010001000002024401003b', 'hex')
  ]);
  const pdf = Buffer.from('%PDF-1.4\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF\n');
  const jpeg = Buffer.from('ffd8ffe000044a46ffda000400001122ff0033ffd9', 'hex');
  const amr = Buffer.concat([Buffer.from('#!AMR\n'), ...Array.from({ length: 4 }, () => frame())]);
  const box = (name: string, length: number): Buffer => {
    const out = Buffer.alloc(length, 7);
    out.writeUInt32BE(length);
    out.write(name, 4);
    return out;
  };
  const film = Buffer.concat([box('ftyp', 24), box('mdat', 90), box('moov', 60)]);
  film.write('isom', 8);
  const db = Buffer.alloc(1024);
  db.write('SQLite format 3\0', 'latin1');
  db.writeUInt16BE(512, 16);
  db.writeUInt32BE(2, 28);
  const zip = Buffer.from(
    zipSync(
      { 'a.txt': Buffer.from('words, words'), b: Buffer.from([1]) },
      { comment: 'of the quay' }
    )
  );
  return { zip, db, webp: riff, gif, pdf, jpg: jpeg, amr, mp4: film, png: picture(5) };
}

function frame(): Buffer {
  const out = Buffer.alloc(13, 0x55);
  out[0] = 4;
  return out;
}

/** Each at a bound of sectors, with empty space behind. */
function laidOut(files: readonly Uint8Array[]): { bytes: Uint8Array; offsets: number[] } {
  const offsets: number[] = [];
  let at = 512;
  for (const file of files) {
    offsets.push(at);
    at += (Math.ceil(file.length / 512) + 1) * 512;
  }
  const bytes = new Uint8Array(at);
  files.forEach((file, i) => bytes.set(file, offsets[i]!));
  return { bytes, offsets };
}

test('files are told by their content and end where their format says', () => {
  const files = bits();
  const { bytes, offsets } = laidOut(Object.values(files));
  assert.deepEqual(
    carved(bytes).map(({ offset, size, extension }) => ({ offset, size, extension })),
    Object.entries(files).map(([extension, { length }], i) => ({
      offset: offsets[i],
      size: length,
      extension
    }))
  );
});

test('samples of real writers end at their last byte', () => {
  const names = readdirSync(SAMPLES).filter((name) =>
    /\.(heic|avif|webp|amr|ogg|opus)$/.test(name)
  );
  assert.ok(names.length >= 3);
  for (const name of names) {
    const file = readFileSync(join(SAMPLES, name));
    const { bytes } = laidOut([file]);
    assert.deepEqual(
      carved(bytes).map(({ offset, size }) => [offset, size]),
      [[512, file.length]],
      name
    );
  }
});

test('a file that is cut is no file', () => {
  for (const [name, file] of Object.entries(bits())) {
    if (name === 'amr') continue;
    const cut = file.subarray(0, file.length - 9);
    assert.equal(fileAt(new MemorySource('m', cut), 0), null, name);
  }
});

test('beginnings without an end are not followed for ever', () => {
  const starts = Object.values(bits()).map((file) => file.subarray(0, 16));
  for (const start of starts) {
    const bytes = new Uint8Array(8 << 20).fill(0x41);
    for (let at = 0; at < bytes.length; at += 512) bytes.set(start, at);
    const source = new MemorySource('m', bytes);
    let read = 0;
    const counted = {
      name: 'm',
      size: source.size,
      read: (offset: number, length: number) => {
        const part = source.read(offset, length);
        read += part.length;
        return part;
      }
    };
    const work = carveByContent(counted);
    let step = work.next();
    while (!step.done) step = work.next();
    assert.ok(read < 40 * bytes.length, `${start.toString('hex')}: ${read / bytes.length}`);
  }
});

test('whatever bytes there are, what is found lies within them', () => {
  const starts = Object.values(bits()).map((file) => file.subarray(0, 16));
  fc.assert(
    fc.property(
      fc.constantFrom(...starts),
      fc.uint8Array({ minLength: 0, maxLength: 3000 }),
      (start, rest) => {
        const bytes = Buffer.concat([start, rest]);
        for (const { offset, size } of carved(bytes))
          assert.ok(size > 0 && offset + size <= bytes.length);
      }
    ),
    { numRuns: 400 }
  );
});

const CONTENTS = {
  files: { 'data/a/one.png': picture(1), 'data/a/two.png': picture(2), 'three.png': picture(3) },
  deleted: [picture(8), picture(9)],
  modifiedAt: AT,
  blocks: 512
};

test('the written volume is sound to the checker of such file systems', (context) => {
  const checker = ['/sbin/e2fsck', '/usr/sbin/e2fsck'].find((path) => existsSync(path));
  if (!checker) return context.skip('the checker is not installed');
  const folder = mkdtempSync(join(tmpdir(), 'volume-'));
  const image = join(folder, 'volume.img');
  writeFileSync(image, writeDisk(CONTENTS).subarray(2048 * 512));
  const told = spawnSync(checker, ['-fn', image], { encoding: 'utf8' });
  rmSync(folder, { recursive: true });
  assert.equal(told.status, 0, told.stdout);
});
