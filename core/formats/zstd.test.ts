import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import fc from 'fast-check';
import { MemoryScratch, MemorySource } from '../host';
import { drain, openTree, plainFile, type Tree } from '.';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
after(() => rmSync(folder, { recursive: true, force: true }));

/** What the format's own program makes of some bytes. */
function packed(bytes: Uint8Array, ...options: string[]): Buffer {
  const path = join(folder, 'plain');
  writeFileSync(path, bytes);
  execFileSync('zstd', ['-q', '-f', ...options, path, '-o', `${path}.zst`]);
  return readFileSync(`${path}.zst`);
}

function opened(name: string, bytes: Uint8Array): Tree {
  const file = plainFile(name, new MemorySource(name, bytes));
  return drain(openTree(name, [file], { keys: [], scratch: () => new MemoryScratch() }));
}

function inner({ files }: Tree): { path: string; bytes: Buffer } {
  const { file } = files[1]!;
  const source = drain(file.open());
  return { path: file.path, bytes: Buffer.from(source.read(0, source.size)) };
}

const text = Buffer.from(
  Array.from({ length: 9000 }, (_, i) => `line ${i} of the harbour\n`).join('')
);

test('a file is unpacked whatever the strength, the checksum and the number of frames', () => {
  const cases: [string, Buffer, Buffer][] = [
    ['plain', packed(text), text],
    ['strong', packed(text, '-19'), text],
    ['a far window', packed(text, '--ultra', '-22'), text],
    ['without a checksum', packed(text, '--no-check'), text],
    [
      'two frames',
      Buffer.concat([packed(text), packed(Buffer.from('more'))]),
      Buffer.concat([text, Buffer.from('more')])
    ],
    ['an empty file', packed(Buffer.alloc(0)), Buffer.alloc(0)]
  ];
  for (const [what, bytes, plain] of cases) {
    const { path, bytes: out } = inner(opened('log.txt.zst', bytes));
    assert.equal(path, 'log.txt', what);
    assert.ok(out.equals(plain), what);
  }
});

test('what is in it is looked into again, and called by the ending', () => {
  assert.equal(inner(opened('a/b.tzst', packed(text))).path, 'a/b.tar');
  assert.equal(inner(opened('dump', packed(text))).path, 'dump.unpacked');
  const twice = opened('x.zst.zst', packed(packed(text)));
  assert.deepEqual(
    twice.packages.map(({ kind }) => kind),
    ['zstd', 'zstd']
  );
  assert.deepEqual(
    twice.files.map(({ file }) => file.path),
    ['x.zst.zst', 'x.zst', 'x']
  );
});

test('damage never ends an opening, and is told', () => {
  const bytes = packed(text);
  const { packages, notes } = opened('cut.zst', bytes.subarray(0, bytes.length - 20));
  assert.equal(packages.length + notes.length > 0, true);
  assert.ok(notes.some(({ code }) => code === 'damaged'));
  fc.assert(
    fc.property(fc.nat(bytes.length - 1), fc.integer({ min: 1, max: 255 }), (at, flip) => {
      const changed = Buffer.from(bytes);
      changed[at]! ^= flip;
      const tree = opened('x.zst', changed);
      assert.ok(tree.files.length >= 1);
    }),
    { numRuns: 200 }
  );
});
