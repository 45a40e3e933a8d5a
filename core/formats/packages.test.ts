import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import {
  closeSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync,
  writeSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { test } from 'node:test';
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { writeAb } from '../../bench/writers/ab';
import { writeBackup, type BackupPlan } from '../../bench/writers/backup';
import { sealStore } from '../../bench/writers/sealed-store';
import { writeTar } from '../../bench/writers/tar';
import { MemoryScratch, MemorySource } from '../host';
import { openGzip } from './gzip';
import { drain, openTree, plainFile, type PackageStep, type Tree } from '.';

function openingOf(
  files: Record<string, Uint8Array>,
  keys: string[],
  name = 'source'
): Generator<PackageStep, Tree> {
  const listed = Object.entries(files).map(([path, bytes]) =>
    plainFile(path, new MemorySource(path, bytes))
  );
  return openTree(name, listed, { keys, scratch: () => new MemoryScratch() });
}

function treeOf(files: Record<string, Uint8Array>, keys: string[] = [], name = 'source'): Tree {
  return drain(openingOf(files, keys, name));
}

/** Steps after which an opening is left: a damaged count can ask for a quarter of an hour of rounds. */
const MOST_STEPS = 60;

/** The result of some work; null where it was left before its end. */
function leftAfter<T>(work: Generator<PackageStep, T>, steps: number): T | null {
  for (let n = 0; n < steps; n++) {
    const step = work.next();
    if (step.done) return step.value;
  }
  return null;
}

function contentsOf(tree: Tree): Record<string, string> {
  return Object.fromEntries(
    tree.files.map(({ file }) => {
      const source = drain(file.open());
      return [file.path, Buffer.from(source.read(0, source.size)).toString('latin1')];
    })
  );
}

/** Runs real programs in a folder of files and gives what they made. */
function made(
  files: Record<string, string | Uint8Array>,
  command: string,
  out: string
): Uint8Array {
  const folder = mkdtempSync(join(tmpdir(), 'packages-'));
  try {
    for (const [path, content] of Object.entries(files)) {
      mkdirSync(dirname(join(folder, path)), { recursive: true });
      writeFileSync(join(folder, path), content);
    }
    execFileSync('bash', ['-c', command], { cwd: folder, stdio: 'pipe' });
    return new Uint8Array(readFileSync(join(folder, out)));
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const LONG = `${'deep/'.repeat(40)}${'n'.repeat(120)} ö 名.txt`;
const FILES = {
  'a.txt': 'alpha',
  'b/empty': '',
  'b/c.bin': Buffer.from(Array.from({ length: 5000 }, (_, i) => i & 255)),
  [LONG]: 'far down'
};

test('tar as the real program writes it, in each of its formats', () => {
  for (const format of ['ustar', 'pax', 'gnu', 'oldgnu', 'v7']) {
    const files: Record<string, string | Uint8Array> =
      format === 'ustar' || format === 'v7'
        ? { 'a.txt': 'alpha', 'b/c.bin': FILES['b/c.bin']! }
        : FILES;
    const tar = made(files, `tar --format=${format} -cf out.tar --exclude=out.tar *`, 'out.tar');
    const contents = contentsOf(treeOf({ 'x.tar': tar }));
    for (const [path, content] of Object.entries(files)) {
      assert.equal(
        contents[`x.tar/${path}`],
        Buffer.from(content).toString('latin1'),
        `${format} ${path}`
      );
    }
  }
});

test('zip as the real program writes it: stored, packed, streamed, with encrypted entries', () => {
  const cases: [string, string][] = [
    ['packed', 'zip -qr out.zip .'],
    ['stored', 'zip -qr0 out.zip .'],
    ['streamed, sizes behind the data', 'zip -qr - . | cat > out.zip']
  ];
  for (const [label, command] of cases) {
    const zip = made(FILES, command, 'out.zip');
    const contents = contentsOf(treeOf({ 'x.zip': zip }));
    for (const [path, content] of Object.entries(FILES)) {
      assert.equal(
        contents[`x.zip/${path}`],
        Buffer.from(content).toString('latin1'),
        `${label} ${path}`
      );
    }
  }
  const mixed = made(FILES, 'zip -q out.zip a.txt && zip -q -P secret out.zip b/c.bin', 'out.zip');
  const tree = treeOf({ 'x.zip': mixed });
  assert.deepEqual(
    tree.files.map(({ file }) => [file.path, file.locked]),
    [
      ['x.zip', false],
      ['x.zip/a.txt', false],
      ['x.zip/b/c.bin', true]
    ]
  );
  assert.match(tree.notes.map((n) => n.text).join(), /1 of 2 entries of x.zip are encrypted/);
});

test('a zip that lost its listing is read entry by entry', () => {
  const zip = made(FILES, 'zip -qr out.zip .', 'out.zip');
  const tree = treeOf({ 'x.zip': zip.subarray(0, zip.length - 60) });
  assert.equal(contentsOf(tree)['x.zip/a.txt'], 'alpha');
  assert.match(tree.notes[0]!.text, /found one by one/);
});

test('packages inside packages are opened, with the path of each before the next', () => {
  const inner = made(FILES, 'zip -qr out.zip .', 'out.zip');
  const tar = writeTar({ 'sub/inner.zip': inner }, 1_700_000_000_000);
  const tree = treeOf({ 'outer.tar.gz': gzipSync(tar) });
  assert.equal(contentsOf(tree)['outer.tar/sub/inner.zip/a.txt'], 'alpha');
  assert.equal(tree.packages.length, 3);
  assert.ok(tree.files.every(({ file }) => file.origin === 'outer.tar.gz'));
});

test('paths that lead out of an archive are brought inside', () => {
  const tar = writeTar({ '../../etc/evil': Buffer.from('x'), '/root/abs': Buffer.from('y') }, 0);
  const tree = treeOf({ 'x.tar': tar });
  assert.deepEqual(
    tree.files.slice(1).map(({ file }) => file.path),
    ['x.tar/etc/evil', 'x.tar/root/abs']
  );
  assert.equal(tree.notes.filter((n) => n.code === 'unsafe-path').length, 1);
});

test('endless nesting and bombs end with a note', () => {
  let nested: Uint8Array = Buffer.from('core');
  for (let i = 0; i < 30; i++) nested = gzipSync(nested);
  const deep = treeOf({ 'deep.gz': nested });
  assert.ok(deep.notes.some((n) => n.code === 'nesting'));
  const bomb = gzipSync(Buffer.alloc(80 << 20));
  const burst = treeOf({ 'bomb.gz': bomb });
  assert.ok(
    burst.notes.some((n) => /400 times its size/.test(n.text)),
    JSON.stringify(burst.notes)
  );
});

const DEVICE = {
  name: 'Tilda’s phone',
  model: 'Pocket 4',
  system: '12.1',
  serial: 'QX7',
  phone: '+44 20 7946 0001',
  at: new Date('2026-10-01T08:00:00Z')
};
const PLAN: BackupPlan = {
  files: [
    { domain: 'HomeDomain', path: 'Library/notes.txt', bytes: Buffer.from('a note') },
    { domain: 'MediaDomain', path: 'DCIM/tin.jpg', bytes: Buffer.alloc(1600, 7) }
  ],
  device: DEVICE,
  layout: 'database'
};

test('manifest backups of both layouts give their files under real paths, with the device facts', () => {
  for (const layout of ['database', 'flat'] as const) {
    const tree = treeOf(writeBackup({ ...PLAN, layout }));
    const contents = contentsOf(tree);
    assert.equal(contents['HomeDomain/Library/notes.txt'], 'a note');
    assert.equal(contents['MediaDomain/DCIM/tin.jpg']!.length, 1600);
    assert.equal(tree.device.name, DEVICE.name);
    assert.equal(tree.device.backedUpAt, DEVICE.at.getTime());
    assert.equal(tree.device.phoneNumber, DEVICE.phone);
    assert.ok(!tree.files.some(({ file }) => /[0-9a-f]{40}/.test(file.path)));
  }
});

test('an encrypted backup opens with its password alone', () => {
  for (const password of ['Ferry42', 'pässwörd 名 😀', '']) {
    const files = writeBackup({ ...PLAN, password, rounds: 50 });
    const contents = contentsOf(treeOf(files, ['wrong', password]));
    assert.equal(contents['HomeDomain/Library/notes.txt'], 'a note');
    assert.equal(contents['MediaDomain/DCIM/tin.jpg']!.length, 1600);
    assert.equal(treeOf(files, ['wrong']).packages[0]!.lock?.reason, 'wrong-key');
    assert.equal(treeOf(files).packages[0]!.lock?.reason, 'key-needed');
  }
});

test('a backup is found from a folder above it, and a folder inside it is explained', () => {
  const files = writeBackup(PLAN);
  const above = Object.fromEntries(Object.entries(files).map(([p, b]) => [`old/backup/${p}`, b]));
  const tree = treeOf(above);
  assert.equal(contentsOf(tree)['old/backup/HomeDomain/Library/notes.txt'], 'a note');
  assert.match(tree.notes[0]!.text, /lies in the folder old\/backup/);
  const [hashed] = Object.keys(files).filter((path) => path.includes('/'));
  const [folder, name] = hashed!.split('/');
  const inside = treeOf({ [name!]: files[hashed!]! }, [], folder);
  assert.match(inside.notes[0]!.text, /Choose the folder above it/);
});

test('.ab archives: plain, packed, encrypted, with passwords outside ASCII', () => {
  const tar = writeTar({ 'apps/org.example/db/a.db': Buffer.from('content') }, 1_700_000_000_000);
  const path = 'x.ab/apps/org.example/db/a.db';
  for (const compressed of [false, true]) {
    assert.equal(contentsOf(treeOf({ 'x.ab': writeAb({ tar, compressed }) }))[path], 'content');
    const locked = writeAb({ tar, compressed, password: 'schlüssel', rounds: 100 });
    assert.equal(contentsOf(treeOf({ 'x.ab': locked }, ['no', 'schlüssel']))[path], 'content');
    assert.equal(treeOf({ 'x.ab': locked }, ['no']).packages[0]!.lock?.reason, 'wrong-key');
  }
  const huge = Buffer.from(
    writeAb({ tar, compressed: true, password: 'p', rounds: 100 })
      .toString('latin1')
      .replace('\n100\n', '\n4000000000\n'),
    'latin1'
  );
  assert.match(treeOf({ 'x.ab': huge }, ['p']).notes[0]!.text, /4000000000 rounds/);
});

test('a sealed store opens with its key, says at once when the key is wrong, and gives what a damaged tail leaves', () => {
  const store = Buffer.from(Array.from({ length: 400_000 }, (_, i) => (i * i * 7919) >>> 7));
  const key = { hex: 'ab'.repeat(32) };
  const sealed = sealStore({ name: 'msg.db', store, key, chunk: 4096 });
  const open = (bytes: Uint8Array, keys: string[]): Tree => treeOf({ 's.sealed': bytes }, keys);
  assert.equal(contentsOf(open(sealed, [key.hex]))['s.sealed/msg.db'], store.toString('latin1'));
  assert.equal(open(sealed, ['cd'.repeat(32), 'word']).packages[0]!.lock?.reason, 'wrong-key');
  const hurt = Buffer.from(sealed);
  hurt[hurt.length - 5000]! ^= 1;
  const tree = open(hurt, [key.hex]);
  const part = contentsOf(tree)['s.sealed/msg.db']!;
  assert.ok(part.length > 1000 && store.toString('latin1').startsWith(part));
  assert.match(tree.notes[0]!.text, /does not agree with its signature/);
  const byWord = sealStore({ name: 'm.db', store, key: { password: 'Wört', rounds: 500 } });
  assert.equal(contentsOf(open(byWord, ['Wört']))['s.sealed/m.db']!.length, store.length);
});

test('mutated packages never hang and never throw', () => {
  const tar = writeTar({ 'a/b.txt': Buffer.from('text'), 'c.txt': Buffer.alloc(3000, 65) }, 0);
  const sources: Record<string, Uint8Array> = {
    'x.tar': tar,
    'x.zip': made(
      { 'a.txt': 'alpha', 'b.bin': Buffer.alloc(9000, 3) },
      'zip -qr out.zip .',
      'out.zip'
    ),
    'x.gz': gzipSync(tar),
    'x.ab': writeAb({ tar, compressed: true, password: 'p', rounds: 10 }),
    'x.sealed': sealStore({ name: 'n', store: tar, key: { hex: '11'.repeat(32) }, chunk: 512 })
  };
  const backup = writeBackup({ ...PLAN, password: 'p', rounds: 5 });
  fc.assert(
    fc.property(
      fc.constantFrom(...Object.keys(sources), 'Manifest.plist', 'Manifest.db'),
      fc.array(fc.tuple(fc.nat(), fc.nat(255)), { maxLength: 6 }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (name, flips, keep) => {
        const original = sources[name] ?? backup[name]!;
        const bytes = Uint8Array.from(
          original.subarray(0, Math.ceil(original.length * (0.3 + keep)))
        );
        for (const [at, value] of flips) bytes[at % bytes.length] = value;
        const files = name in sources ? { [name]: bytes } : { ...backup, [name]: bytes };
        const tree = leftAfter(openingOf(files, ['p', '11'.repeat(32)]), MOST_STEPS);
        for (const { file } of tree?.files ?? []) if (!file.locked) file.head();
      }
    ),
    { numRuns: 400 }
  );
});

test('files with holes and second names come out of a tar whole, however they are kept', () => {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
  const pieces = Array.from({ length: 60 }, (_, i) => ({
    at: i * 200_000 + 4096,
    text: `piece ${i}`
  }));
  const file = openSync(join(folder, 'holes.bin'), 'w');
  for (const { at, text } of pieces) writeSync(file, text, at);
  closeSync(file);
  truncateSync(join(folder, 'holes.bin'), 13_000_000);
  linkSync(join(folder, 'holes.bin'), join(folder, 'second.bin'));
  const whole = readFileSync(join(folder, 'holes.bin'));
  const forms = [
    '--format=gnu',
    '--sparse-version=0.0',
    '--sparse-version=0.1',
    '--sparse-version=1.0'
  ];
  for (const form of forms) {
    const posix = form.startsWith('--sparse') ? ['--format=posix'] : [];
    const args = ['-cSf', 'out.tar', ...posix, form, 'holes.bin', 'second.bin'];
    execFileSync('tar', args, { cwd: folder });
    const { files } = treeOf({ 'x.tar': readFileSync(join(folder, 'out.tar')) });
    const names = ['x.tar/holes.bin', 'x.tar/second.bin'];
    for (const name of names) {
      const found = files.find(({ file }) => file.path === name);
      assert.ok(found, `${form}: ${name}`);
      const source = drain(found.file.open());
      assert.ok(whole.equals(source.read(0, source.size)), `${form}: ${name}`);
    }
  }
});

const logLine = (name: string, n: number): string => `2025-03-01 10:00:00 - ${name}: line ${n}\n`;
const logText = Buffer.from(Array.from({ length: 200 }, (_, i) => logLine('Kit', i)).join(''));
const more = Buffer.from(logLine('Ada', 1).repeat(90));
const whole = gzipSync(logText);

/** The same with a byte changed. */
function flipped(bytes: Buffer, at: number): Buffer {
  const out = Buffer.from(bytes);
  out[at < 0 ? bytes.length + at : at]! ^= 1;
  return out;
}

const stored = gzipSync(logText, { level: 0 });
const GZIPS: [what: string, bytes: Buffer, text: Buffer | null, codes: string[]][] = [
  ['one member', whole, logText, []],
  ['two members', Buffer.concat([whole, gzipSync(more)]), Buffer.concat([logText, more]), []],
  ['padding behind it', Buffer.concat([whole, Buffer.alloc(512)]), logText, []],
  ['words that were changed', flipped(stored, 60), null, ['checksum']],
  ['a checksum that was changed', flipped(whole, -8), logText, ['checksum']],
  [
    'words that were changed in the first of two',
    Buffer.concat([flipped(stored, 60), gzipSync(more)]),
    null,
    ['checksum']
  ],
  ['the end cut off', whole.subarray(0, whole.length - 40), null, ['damaged']]
];
for (const [what, bytes, text, codes] of GZIPS)
  test(`a gzip file with ${what}: ${codes.join(', ') || 'sound'}`, () => {
    const opening = { keys: [], scratch: () => new MemoryScratch() };
    const source = new MemorySource('log.txt.gz', bytes);
    const { files, notes } = drain(openGzip(source, opening));
    assert.deepEqual(
      notes.map(({ code }) => code),
      codes
    );
    const unpacked = drain(files[0]!.open());
    if (text) assert.deepEqual(Buffer.from(unpacked.read(0, unpacked.size)), text);
  });
