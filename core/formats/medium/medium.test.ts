import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  closeSync,
  ftruncateSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  rmSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { after, test } from 'node:test';
import { gunzipSync } from 'node:zlib';
import fc from 'fast-check';
import { MemoryScratch, MemorySource, type ByteSource } from '../../host';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { makeDatabase } from '../../tests/databases';
import { passOver } from '../../tests/pass';
import type { ListedFile, OpenedPackage } from '../types';
import { MEDIUM, UNALLOCATED } from './index';

const folder = mkdtempSync(join(tmpdir(), 'medium-'));
after(() => rmSync(folder, { recursive: true }));

function drained<T>(work: Generator<unknown, T>): T {
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
}

function opened(image: Uint8Array): OpenedPackage {
  const source = new MemorySource('card.img', image);
  return drained(MEDIUM.open(source, '', { keys: [], scratch: () => new MemoryScratch() }));
}

function bytesOf(file: ListedFile): Uint8Array {
  const source: ByteSource = drained(file.open());
  return source.read(0, source.size);
}

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Text of a file: no two files have a line in common. */
function textOf(path: string, size: number): Uint8Array {
  let text = '';
  for (let i = 0; text.length < size; i++)
    text += `${path} line ${i} of what was said at the quay\n`;
  return new TextEncoder().encode(text).subarray(0, size);
}

/** What the images hold, and what of it was deleted. */
const FILES: Record<string, number> = {
  'notes.txt': 900,
  'empty.txt': 0,
  'Pictures/IMG_0001.JPG': 30_000,
  'Pictures/IMG_0002.JPG': 45_000,
  'Pictures/IMG_0003.JPG': 20_000,
  'A folder with a long name/d\u00e9j\u00e0 vu.txt': 5000,
  'A folder with a long name/second.txt': 70_000,
  'old/app/messages.db': 50_000,
  'old/app/tiny.txt': 120,
  'small.txt': 300
};
const GONE = [
  'Pictures/IMG_0002.JPG',
  'A folder with a long name/d\u00e9j\u00e0 vu.txt',
  'old/app/messages.db',
  'old/app/tiny.txt',
  'small.txt'
];

function checked(image: Uint8Array, nameOf = (path: string): string => path): void {
  const byPath = new Map(opened(image).files.map((file) => [file.path.normalize('NFC'), file]));
  for (const [path, size] of Object.entries(FILES)) {
    const isGone = GONE.includes(path);
    const file = byPath.get(isGone ? `deleted/${nameOf(path)}` : path);
    assert.ok(file, `${path} is listed among ${[...byPath.keys()].join(', ')}`);
    assert.equal(file.size, size);
    assert.equal(sha256(bytesOf(file)), sha256(textOf(path, size)), path);
    assert.equal(file.deleted?.contents, isGone ? 'intact' : undefined, path);
    assert.ok((file.modifiedAt ?? 0) > Date.UTC(2020, 0), 'it has its time');
  }
  const live = [...byPath.values()].filter(
    ({ deleted, isUnallocated }) => !deleted && !isUnallocated
  );
  const others = live.filter(({ path }) => !(path in FILES) && !path.startsWith('packed/'));
  assert.deepEqual(
    others.map(({ path }) => path).filter((path) => !path.includes(':')),
    []
  );
}

/** An image that a driver wrote, as it is kept beside this test. */
function keptImage(name: string): Uint8Array {
  return new Uint8Array(
    gunzipSync(readFileSync(new URL(`./images/${name}.img.gz`, import.meta.url)))
  );
}

test('exFAT: live and deleted files with their names', () => checked(keptImage('exfat')));

test('NTFS: live and deleted files, such as lie in their records among them', () =>
  checked(keptImage('ntfs')));

test('NTFS: packed files and further streams are read', () => {
  const { files } = opened(keptImage('ntfs'));
  const packed = files.find(({ path }) => path === 'packed/words.txt')!;
  const words = new TextDecoder().decode(bytesOf(packed));
  assert.equal(words, 'the same words again and again, '.repeat(3000));
  const source = drained(packed.open());
  assert.equal(new TextDecoder().decode(source.read(64_000, 9)), words.slice(64_000, 64_009));
  const stream = files.find(({ path }) => path === 'notes.txt:origin')!;
  assert.equal(new TextDecoder().decode(bytesOf(stream)), 'from the quay');
});

function run(command: string, ...args: string[]): string {
  return execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
}

function emptyImage(name: string, megabytes: number): string {
  const path = join(folder, name);
  const file = openSync(path, 'w');
  ftruncateSync(file, megabytes << 20);
  closeSync(file);
  return path;
}

/** Written by the tools for such cards. */
function fatImage(bits: number, megabytes: number, files = FILES, gone = GONE): Uint8Array {
  const image = emptyImage(`fat${bits}.img`, megabytes);
  run('mkfs.fat', '-F', `${bits}`, '-n', 'CARD', ...(bits === 32 ? ['-s', '1'] : []), image);
  const made = new Set<string>();
  const given = join(folder, 'given');
  for (const [path, size] of Object.entries(files)) {
    const parts = path.split('/').slice(0, -1);
    for (const [n] of parts.entries()) {
      const above = parts.slice(0, n + 1).join('/');
      if (!made.has(above)) run('mmd', '-i', image, `::/${above}`);
      made.add(above);
    }
    writeFileSync(given, textOf(path, size));
    run('mcopy', '-i', image, given, `::/${path}`);
  }
  for (const path of gone) if (!path.startsWith('old/')) run('mdel', '-i', image, `::/${path}`);
  if (gone.some((path) => path.startsWith('old/'))) run('mdeltree', '-i', image, '::/old');
  return new Uint8Array(readFileSync(image));
}

/** The first letter of a short name is gone, unless it has neighbours of its series. */
const headless = (path: string): string =>
  path
    .replace('old/app', '_ld/_pp')
    .replace('tiny.txt', '_iny.txt')
    .replace('messages.db', '_essages.db')
    .replace(/^small/, '_mall');

for (const [bits, megabytes] of [
  [12, 3],
  [16, 20],
  [32, 40]
] as const)
  test(`FAT${bits}: live and deleted files, their long names`, () =>
    checked(fatImage(bits, megabytes), headless));

/** Written and emptied by the tools for such volumes, without a mount. */
function extImage(kind: string, ...options: string[]): Uint8Array {
  const tree = join(folder, 'tree');
  for (const [path, size] of Object.entries(FILES)) {
    mkdirSync(dirname(join(tree, path)), { recursive: true });
    writeFileSync(join(tree, path), textOf(path, size));
  }
  const image = emptyImage(`${kind}.img`, 12);
  run('mke2fs', '-q', '-t', kind, '-L', 'data', ...options, '-d', tree, image);
  const remove = GONE.map((path) => `rm "/${path}"`).join('\n');
  const script = join(folder, 'script');
  writeFileSync(script, `${remove}\nrmdir /old/app\nrmdir /old\n`);
  run('debugfs', '-w', '-f', script, image);
  return new Uint8Array(readFileSync(image));
}

for (const [kind, options] of [
  ['ext2', []],
  ['ext3', []],
  ['ext4', []],
  ['ext4', ['-b', '1024']],
  ['ext4', ['-O', '64bit']]
] as const)
  test(`${[kind, ...options].join(' ')}: live and deleted files`, () => {
    const { files, notes } = opened(extImage(kind, ...options));
    const live = files.filter(({ deleted, isUnallocated }) => !deleted && !isUnallocated);
    const expected = Object.keys(FILES).filter((path) => !GONE.includes(path));
    assert.deepEqual(live.map(({ path }) => path).sort(), expected.sort());
    for (const file of live)
      assert.equal(sha256(bytesOf(file)), sha256(textOf(file.path, file.size!)));
    const sums = new Set(
      files.filter(({ deleted }) => deleted).map((file) => sha256(bytesOf(file)))
    );
    for (const path of GONE) assert.ok(sums.has(sha256(textOf(path, FILES[path]!))), path);
    assert.ok(notes.some(({ text }) => text.includes(`${kind} \u201cdata\u201d`)));
  });

test('messages of a deleted database are read, and pages that no file claims are put together', async () => {
  const sent = messages(400, seeded(5));
  const store = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, sent);
  });
  const image = emptyImage('messages.img', 8);
  run('mkfs.fat', '-F', '12', image);
  const given = join(folder, 'given');
  writeFileSync(given, store);
  run('mcopy', '-i', image, given, '::/sms.db');
  run('mdel', '-i', image, '::/sms.db');
  const listed = await passOver({ 'card.img': new Uint8Array(readFileSync(image)) });
  assert.deepEqual(
    listed.findings.stores.map(({ path }) => path),
    ['card.img/deleted/_ms.db']
  );
  assert.equal(listed.findings.messages.length, sent.length);
  const [file] = listed.files.filter(({ deletion }) => deletion);
  assert.deepEqual([file!.state, file!.deletion!.contents], ['recovered', 'intact']);
  // Its entry is gone too: what is left is found by its pages.
  const bytes = new Uint8Array(readFileSync(image));
  const root = Buffer.from(bytes).indexOf('\u00e5MS     DB ', 0, 'latin1');
  bytes.fill(0, root, root + 32);
  const carved = await passOver({ 'card.img': bytes }, { depth: 'whole' });
  assert.equal(carved.findings.messages.length, sent.length);
  assert.match(carved.findings.stores[0]!.path, new RegExp(`^card.img/${UNALLOCATED} at \\d+$`));
});

test('a medium says what it is before its files are listed', () => {
  const told = MEDIUM.tell!(new MemorySource('card.img', fatImage(16, 20)));
  assert.match(
    told,
    /^An image of a medium: FAT16 \u201cCARD\u201d, 21\.0 MB, .* of them in use\.$/
  );
  for (const bytes of [new Uint8Array(4100), new Uint8Array(4100).fill(0x41), new Uint8Array(40)])
    assert.equal(MEDIUM.begins(bytes), false);
});

test('whatever is written over, listing ends, and every file can be read', () => {
  const images = [keptImage('ntfs'), keptImage('exfat'), fatImage(12, 3), extImage('ext4')];
  fc.assert(
    fc.property(
      fc.nat(images.length - 1),
      fc.array(fc.tuple(fc.nat(200_000), fc.uint8Array({ minLength: 1, maxLength: 40 })), {
        minLength: 1,
        maxLength: 30
      }),
      fc.integer({ min: 1, max: 100 }),
      (n, writes, percent) => {
        const image = images[n]!.slice(0, Math.ceil((images[n]!.length * percent) / 100));
        for (const [at, bytes] of writes)
          if (at + bytes.length < image.length) image.set(bytes, at);
        const { files } = opened(image);
        for (const file of files.slice(0, 50)) drained(file.open()).read(0, 4096);
      }
    ),
    { numRuns: 120 }
  );
});

/** What a boot sector or superblock can say that is not so: offset, bytes. */
const ABSURD: [string, () => Uint8Array, number, number[]][] = [
  ['FAT: four thousand million sectors', () => fatImage(32, 40), 32, [255, 255, 255, 255]],
  ['FAT: a table as large', () => fatImage(32, 40), 36, [255, 255, 255, 127]],
  ['FAT: a root past the end', () => fatImage(32, 40), 44, [255, 255, 255, 15]],
  ['exFAT: clusters without number', () => keptImage('exfat'), 92, [255, 255, 255, 255]],
  ['exFAT: a root past the end', () => keptImage('exfat'), 96, [255, 255, 255, 255]],
  ['NTFS: a volume without end', () => keptImage('ntfs'), 40, [255, 255, 255, 255, 255, 255, 31]],
  ['NTFS: a file table past the end', () => keptImage('ntfs'), 48, [255, 255, 255, 255, 255]],
  ['ext4: blocks without number', () => extImage('ext4'), 1024 + 4, [255, 255, 255, 255]],
  ['ext4: inodes without number', () => extImage('ext4'), 1024, [255, 255, 255, 255]],
  ['ext4: groups of one block', () => extImage('ext4'), 1024 + 32, [1, 0, 0, 0]]
];

for (const [name, made, at, bytes] of ABSURD)
  test(`${name}: listing ends soon`, () => {
    const image = made();
    image.set(bytes, at);
    const { files } = opened(image);
    assert.ok(files.some(({ isUnallocated }) => isUnallocated));
    for (const file of files) drained(file.open()).read(0, 4096);
  });

test('a folder that holds itself is listed once', () => {
  const image = fatImage(16, 20);
  const disk = Buffer.from(image);
  const root = disk.indexOf('OLD        ', 0, 'latin1');
  const pictures = disk.indexOf('PICTURES   ', 0, 'latin1');
  assert.ok(pictures > 0 || root > 0);
  const inside = disk.indexOf('IMG_0001JPG', 0, 'latin1');
  // The first picture becomes a folder whose cluster is that of the folder it lies in.
  image[inside + 11] = 0x10;
  image.set(image.subarray(pictures + 26, pictures + 28), inside + 26);
  const { files } = opened(image);
  assert.ok(files.filter(({ path }) => path.endsWith('IMG_0003.JPG')).length <= 2);
});

/** Volumes behind each other, without a table. */
function disk(): Uint8Array {
  const volumes = [fatImage(12, 3), keptImage('ntfs'), keptImage('exfat'), extImage('ext4')];
  const image = new Uint8Array(volumes.reduce((sum, { length }) => sum + length, 64 * 512));
  let at = 63 * 512;
  for (const volume of volumes) {
    image.set(volume, at);
    at += volume.length;
  }
  return image;
}

test('volumes are found by their own marks where the table is wiped', async () => {
  const image = disk();
  const { files, notes } = opened(image);
  for (const n of [1, 2, 3, 4]) {
    const notesFile = files.find(({ path }) => path === `partition ${n}/notes.txt`)!;
    assert.equal(sha256(bytesOf(notesFile)), sha256(textOf('notes.txt', 900)));
  }
  assert.ok(notes.some(({ text }) => text.includes('found by their own marks')));
  assert.equal(MEDIUM.begins(image.subarray(0, 4100)), false);
  const { source, files: listed } = await passOver({ 'disk.img': image });
  assert.equal(source.kind, 'medium');
  assert.ok(listed.some(({ path }) => path === 'disk.img/partition 2/deleted/small.txt'));
});

/** A disk with one partition of the old table. */
function partitioned(volume: Uint8Array): Uint8Array {
  const image = new Uint8Array(volume.length + 2048 * 512);
  image.set(volume, 2048 * 512);
  const view = new DataView(image.buffer);
  image[446 + 4] = 0x0c;
  view.setUint32(446 + 8, 2048, true);
  view.setUint32(446 + 12, volume.length / 512, true);
  image.set([0x55, 0xaa], 510);
  return image;
}

for (const [name, volume, head] of [
  ['FAT32', () => fatImage(32, 40), 512],
  ['NTFS', () => keptImage('ntfs'), 512],
  ['exFAT', () => keptImage('exfat'), 512],
  ['ext4', () => extImage('ext4', '-b', '1024'), 2048]
] as const)
  test(`${name}: a copy of the head serves where the head is wiped`, () => {
    const image = partitioned(volume());
    image.fill(0, 2048 * 512, 2048 * 512 + head);
    const { files } = opened(image);
    const found = files.find(({ path }) => path === 'partition 1/notes.txt');
    assert.ok(found, files.map(({ path }) => path).join());
    assert.equal(sha256(bytesOf(found)), sha256(textOf('notes.txt', 900)));
  });
