import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { test } from 'node:test';
import { deflateRawSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { writeTar } from '../../bench/writers/tar';
import { MemoryScratch, MemorySource } from '../host';
import { drain, openTree, plainFile, type Tree } from '.';
import { markOf } from './mark';
import { baseName, folderOf, safePath } from './paths';
import { isTarHeader } from './tar';

function treeOf(name: string, bytes: Uint8Array): Tree {
  const listed = [plainFile(name, new MemorySource(name, bytes))];
  return drain(openTree('source', listed, { keys: [], scratch: () => new MemoryScratch() }));
}

function contentsOf(tree: Tree): Map<string, Buffer> {
  // The package itself is listed too.
  const inner = tree.files.filter(({ file }) => file.path !== file.origin);
  return new Map(
    inner.map(({ file }) => {
      const source = drain(file.open());
      return [file.path, Buffer.from(source.read(0, source.size))];
    })
  );
}

test('paths out of packages stay below them', () => {
  const cases: [string, string | null][] = [
    ['a/b.txt', 'a/b.txt'],
    ['../../etc/passwd', 'etc/passwd'],
    ['/root/file', 'root/file'],
    ['C:\\Users\\x\\y', 'Users/x/y'],
    ['a/./b//c', 'a/b/c'],
    ['a/../b', 'a/b'],
    ['/c:/d:x', 'x'],
    ['a:b', 'b'],
    ['x/a:b', 'x/a:b'],
    ['a\0b', 'ab'],
    ['..', null],
    ['/', null],
    ['', null]
  ];
  for (const [raw, path] of cases) assert.equal(safePath(raw)?.path ?? null, path, raw);
});

test('no path, however it is written, leads out', () => {
  const piece = fc.constantFrom('..', '.', '/', '\\', 'a', 'c:', '\0', ' ', '...', '名');
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 12 }), (pieces) => {
      const safe = safePath(pieces.join(''));
      if (!safe) return;
      const parts = safe.path.split('/');
      assert.ok(!safe.path.startsWith('/') && !/^[a-z]:/i.test(safe.path), safe.path);
      assert.ok(!parts.includes('..') && !safe.path.includes('\\') && !safe.path.includes('\0'));
    }),
    { numRuns: 2000 }
  );
  assert.ok(safePath('x/'.repeat(10_000))!.path.length <= 4096);
});

test('a path is its folder and its name', () => {
  fc.assert(
    fc.property(fc.stringMatching(/^[a-c/]{0,12}$/), (path) => {
      assert.equal(folderOf(path) + baseName(path), path);
      assert.ok(!baseName(path).includes('/'));
    })
  );
});

const names = fc.uniqueArray(
  fc.stringMatching(/^[a-z]{1,8}(\/[a-z0-9][a-z0-9 _.-]{0,20}){0,3}[a-z]$/),
  {
    maxLength: 6
  }
);
const files = names.chain((paths) =>
  fc.tuple(...paths.map(() => fc.uint8Array({ maxLength: 1500 }))).map((contents) => {
    const entries = paths.map((path, i): [string, Uint8Array] => [path, contents[i]!]);
    return entries.filter(([path]) => !paths.some((other) => other.startsWith(`${path}/`)));
  })
);

test('any files come back from a tar, with their time', () => {
  fc.assert(
    fc.property(files, (entries) => {
      const at = 1_700_000_000_000;
      const tree = treeOf('x.tar', writeTar(Object.fromEntries(entries), at));
      const found = contentsOf(tree);
      if (entries.length === 0) return;
      for (const [path, bytes] of entries)
        assert.ok(found.get(`x.tar/${path}`)?.equals(bytes), path);
      const inner = tree.files.filter(({ file }) => file.path !== 'x.tar');
      assert.ok(inner.every(({ file }) => file.modifiedAt === at));
    }),
    { numRuns: 60 }
  );
});

test('a tar header is told by its checksum, and any change of it is seen', () => {
  const header = writeTar({ 'a.txt': Buffer.from('x') }, 0).subarray(0, 512);
  assert.ok(isTarHeader(header));
  fc.assert(
    fc.property(fc.nat(511), fc.integer({ min: 1, max: 255 }), (at, by) => {
      // The checksum is no part of itself: its digits can be written in more than one way.
      if (at >= 148 && at < 156) return;
      const changed = Uint8Array.from(header);
      changed[at] = (changed[at]! + by) & 0xff;
      assert.equal(isTarHeader(changed), false, `${at}`);
    })
  );
  for (const block of [new Uint8Array(512), new Uint8Array(511), header.subarray(0, 500)])
    assert.equal(isTarHeader(block), false);
});

test('a tar whose header is damaged gives the files behind it, and says what was passed over', () => {
  const tar = writeTar(
    { one: Buffer.alloc(700, 1), two: Buffer.alloc(9, 2), three: Buffer.alloc(5, 3) },
    0
  );
  const hurt = Buffer.from(tar);
  hurt.fill(0x77, 512 + 1024 + 10, 512 + 1024 + 90);
  const tree = treeOf('x.tar', hurt);
  assert.deepEqual([...contentsOf(tree).keys()], ['x.tar/one', 'x.tar/three']);
  assert.match(tree.notes[0]!.text, /bytes at offset 1536 are damaged/);
});

test('a tar that is cut gives what is there', () => {
  const tar = writeTar({ one: Buffer.alloc(700, 1), two: Buffer.alloc(2000, 2) }, 0);
  const tree = treeOf('x.tar', tar.subarray(0, 512 + 1024 + 512 + 600));
  assert.deepEqual(
    [...contentsOf(tree)].map(([path, bytes]) => [path, bytes.length]),
    [
      ['x.tar/one', 700],
      ['x.tar/two', 600]
    ]
  );
  assert.match(tree.notes[0]!.text, /600 of 2000 bytes/);
});

/** A zip with one entry, written by the description: local header, data, central directory, end. */
function zipOf(name: string, content: Uint8Array, method: 0 | 8): Buffer {
  const data = method === 8 ? deflateRawSync(content) : Buffer.from(content);
  const path = Buffer.from(name);
  const common = Buffer.alloc(26);
  common.writeUInt16LE(20, 0);
  common.writeUInt16LE(0x0800, 2);
  common.writeUInt16LE(method, 4);
  common.writeUInt32LE(data.length, 14);
  common.writeUInt32LE(content.length, 18);
  common.writeUInt16LE(path.length, 22);
  const local = Buffer.concat([Buffer.from([0x50, 0x4b, 3, 4]), common, path, data]);
  const central = Buffer.concat([
    Buffer.from([0x50, 0x4b, 1, 2, 20, 0]),
    common,
    Buffer.alloc(14),
    path
  ]);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length, 12);
  end.writeUInt32LE(local.length, 16);
  return Buffer.concat([local, central, end]);
}

test('any content comes back from a zip, packed or not, with or without its directory', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 1, maxLength: 3000 }),
      fc.constantFrom(0 as const, 8 as const),
      fc.boolean(),
      (content, method, isCut) => {
        const zip = zipOf('quay/名 list.txt', content, method);
        const bytes = isCut ? zip.subarray(0, zip.length - 30) : zip;
        const tree = treeOf('x.zip', bytes);
        assert.ok(contentsOf(tree).get('x.zip/quay/名 list.txt')?.equals(content));
        assert.equal(tree.notes.length > 0, isCut);
      }
    ),
    { numRuns: 100 }
  );
});

test('what one program packs another finds here', () => {
  const content = Buffer.from('harbour list\n'.repeat(500));
  const packed = execFileSync('gzip', ['-nc'], { input: content });
  assert.ok(contentsOf(treeOf('list.txt.gz', packed)).get('list.txt')?.equals(content));
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 1, maxLength: 5000 }), (bytes) => {
      const [found] = contentsOf(treeOf('a.gz', gzipSync(bytes))).values();
      assert.ok(found?.equals(bytes));
    }),
    { numRuns: 50 }
  );
});

test('a file is known by its first bytes', () => {
  const tar = writeTar({ a: Buffer.from('x') }, 0);
  const cases: [string, Uint8Array, string][] = [
    ['nothing', new Uint8Array(0), 'empty'],
    ['a database', Buffer.from('SQLite format 3\0 and more'), 'database'],
    ['half a magic line', Buffer.from('SQLite form'), 'text'],
    ['a zip', zipOf('a', Buffer.from('x'), 0), 'zip'],
    ['an empty zip', zipOf('a', Buffer.from('x'), 0).subarray(-22), 'zip'],
    ['gzip', gzipSync('x'), 'gzip'],
    ['a tar', tar, 'tar'],
    ['text', Buffer.from('plain words\r\n\ttide'), 'text'],
    ['wide text', Buffer.from('\ufeffwords', 'utf16le'), 'text'],
    ['a picture', Buffer.from([0xff, 0xd8, 0xff, 0xe0, 0, 16, 74, 70, 73, 70, 0, 1]), 'other'],
    ['zeros', Buffer.alloc(600), 'other']
  ];
  for (const [says, head, wanted] of cases) {
    const { mark, format } = markOf(head);
    assert.equal(format?.kind ?? mark, wanted, says);
  }
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 1, maxLength: 600 }), (head) => {
      // Noise has no magic line, but for the two-byte ones; what is short can pass for text.
      if ([0xfffe, 0xfeff, 0x1f8b].includes((head[0]! << 8) | head[1]!)) return;
      const { mark } = markOf(head);
      assert.ok(mark === 'other' || (mark === 'text' && !head.includes(0)), mark);
    })
  );
});
