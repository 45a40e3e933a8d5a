import assert from 'node:assert/strict';
import { createCipheriv, createHmac, pbkdf2Sync } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import { crc32, deflateRawSync } from 'node:zlib';
import { MemoryScratch, MemorySource } from '../../host';
import type { Note } from '../../records';
import { drain, openTree, plainFile, type Tree } from '..';

const TEXT = Buffer.from('The ferry leaves at seven. '.repeat(40));

interface Made {
  name: string;
  content: Buffer;
  method: 0 | 8;
  /** Under which password, with how long a key, in which version of the extra field. */
  aes?: { password: string; keyBytes: 16 | 24 | 32; version: 1 | 2 };
  /** What the listing says of the checksum, where it is not the right one. */
  crc?: number;
}

/** A zip as its description tells (APPNOTE.TXT 6.3), encrypted with Node's own cryptography. */
function zipOf(entries: Made[], sameHeader = false): Buffer {
  const locals: Buffer[] = [];
  const central: Buffer[] = [];
  let at = 0;
  for (const { name, content, method, aes, crc } of entries) {
    const packed = method === 8 ? deflateRawSync(content) : content;
    const data = aes ? encrypted(packed, aes) : packed;
    const extra = aes ? aesField(aes, method) : Buffer.alloc(0);
    const sum = crc ?? (aes?.version === 2 ? 0 : crc32(content));
    const facts = Buffer.alloc(22);
    facts.writeUInt16LE(aes ? 1 : 0, 2);
    facts.writeUInt16LE(aes ? 99 : method, 4);
    facts.writeUInt32LE(sum, 10);
    facts.writeUInt32LE(data.length, 14);
    facts.writeUInt32LE(content.length, 18);
    const lengths = Buffer.alloc(4);
    lengths.writeUInt16LE(Buffer.byteLength(name), 0);
    lengths.writeUInt16LE(extra.length, 2);
    const local = Buffer.concat([
      Buffer.from('PK\x03\x04'),
      facts,
      lengths,
      Buffer.from(name),
      extra,
      data
    ]);
    const rest = Buffer.alloc(14);
    rest.writeUInt32LE(sameHeader ? 0 : at, 10);
    central.push(
      Buffer.concat([Buffer.from('PK\x01\x02\0\0'), facts, lengths, rest, Buffer.from(name), extra])
    );
    locals.push(local);
    at += local.length;
  }
  const listing = Buffer.concat(central);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 'latin1');
  end.writeUInt16LE(entries.length, 8);
  end.writeUInt16LE(entries.length, 10);
  end.writeUInt32LE(listing.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...locals, listing, end]);
}

function aesField({ keyBytes, version }: NonNullable<Made['aes']>, method: number): Buffer {
  const field = Buffer.alloc(11);
  field.writeUInt16LE(0x9901, 0);
  field.writeUInt16LE(7, 2);
  field.writeUInt16LE(version, 4);
  field.write('AE', 6, 'latin1');
  field[8] = keyBytes / 8 - 1;
  field.writeUInt16LE(method, 9);
  return field;
}

function encrypted(packed: Buffer, { password, keyBytes }: NonNullable<Made['aes']>): Buffer {
  const salt = Buffer.alloc(keyBytes / 2, 7);
  const keys = pbkdf2Sync(password, salt, 1000, 2 * keyBytes + 2, 'sha1');
  const cipher = createCipheriv(`aes-${keyBytes * 8}-ecb`, keys.subarray(0, keyBytes), null);
  const out = Buffer.from(packed);
  for (let block = 0; block * 16 < out.length; block++) {
    const counter = Buffer.alloc(16);
    counter.writeUInt32LE(block + 1, 0);
    const stream = cipher.update(counter);
    for (let i = 0; i < 16 && block * 16 + i < out.length; i++) out[block * 16 + i]! ^= stream[i]!;
  }
  const mac = createHmac('sha1', keys.subarray(keyBytes, 2 * keyBytes))
    .update(out)
    .digest();
  return Buffer.concat([salt, keys.subarray(2 * keyBytes), out, mac.subarray(0, 10)]);
}

interface Opened {
  tree: Tree;
  contents: Record<string, string | null>;
  doubts: Note[];
}

function open(bytes: Uint8Array, keys: string[] = []): Opened {
  const doubts: Note[] = [];
  const opening = {
    keys,
    scratch: () => new MemoryScratch(),
    doubt: (note: Note) => void doubts.push(note)
  };
  const tree = drain(
    openTree('x', [plainFile('x.zip', new MemorySource('x.zip', bytes))], opening)
  );
  const contents: Record<string, string | null> = {};
  for (const { file } of tree.files.slice(1)) {
    if (file.locked) contents[file.path] = null;
    else {
      const source = drain(file.open());
      contents[file.path] = Buffer.from(source.read(0, source.size)).toString();
    }
  }
  return { tree, contents, doubts };
}

test('entries encrypted with AES open with their key, stored and packed, in all strengths', () => {
  for (const keyBytes of [16, 24, 32] as const)
    for (const method of [0, 8] as const)
      for (const version of [1, 2] as const) {
        const zip = zipOf([
          { name: 'a.txt', content: TEXT, method, aes: { password: 'tide ü', keyBytes, version } }
        ]);
        const { contents, doubts, tree } = open(zip, ['wrong', 'tide ü']);
        assert.equal(contents['x.zip/a.txt'], TEXT.toString(), `${keyBytes} ${method} ${version}`);
        assert.deepEqual(doubts, []);
        assert.equal(tree.packages[0]!.lock, null);
      }
});

test('entries are locked one by one, each with the key that fits it', () => {
  const aes = (password: string) => ({ password, keyBytes: 32 as const, version: 2 as const });
  const zip = zipOf([
    { name: 'plain.txt', content: Buffer.from('plain'), method: 0 },
    { name: 'one.txt', content: Buffer.from('one'), method: 8, aes: aes('first') },
    { name: 'two.txt', content: Buffer.from('two'), method: 8, aes: aes('second') }
  ]);
  const cases: [string[], (string | null)[], string | null][] = [
    [[], ['plain', null, null], 'key-needed'],
    [['nothing'], ['plain', null, null], 'wrong-key'],
    [['first'], ['plain', 'one', null], 'wrong-key'],
    [['second', 'first'], ['plain', 'one', 'two'], null]
  ];
  for (const [keys, expected, lock] of cases) {
    const { contents, tree } = open(zip, keys);
    assert.deepEqual(Object.values(contents), expected, keys.join());
    assert.equal(tree.packages[0]!.lock?.reason ?? null, lock);
  }
});

test('archives that real programs encrypted open, and a wrong password opens none', () => {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
  const names = Array.from({ length: 40 }, (_, i) => `${i}.txt`);
  for (const name of names) writeFileSync(join(folder, name), `${name} ${TEXT}`);
  for (const streamed of [false, true]) {
    const args = streamed
      ? ['-c', 'zip -q -P "winter tide" - *.txt | cat > out.zip']
      : ['-c', 'zip -q -P "winter tide" out.zip *.txt'];
    execFileSync('sh', args, { cwd: folder });
    const zip = readFileSync(join(folder, 'out.zip'));
    execFileSync('rm', ['out.zip'], { cwd: folder });
    const { contents, doubts } = open(zip, ['summer', 'autumn', 'winter tide']);
    for (const name of names) assert.equal(contents[`x.zip/${name}`], `${name} ${TEXT}`);
    assert.deepEqual(doubts, []);
    const wrong = open(
      zip,
      Array.from({ length: 30 }, (_, i) => `wrong ${i}`)
    );
    assert.ok(Object.values(wrong.contents).every((content) => content === null));
    assert.equal(wrong.tree.packages[0]!.lock!.reason, 'wrong-key');
  }
});

test('a checksum that does not hold is told, whatever the packing and the lock', () => {
  const aes = { password: 'k', keyBytes: 16 as const, version: 2 as const };
  for (const method of [0, 8] as const) {
    const { doubts } = open(zipOf([{ name: 'a.txt', content: TEXT, method, crc: 1 }]));
    assert.deepEqual(
      doubts.map(({ code, path }) => [code, path]),
      [['checksum', 'x.zip/a.txt']]
    );
  }
  const zip = zipOf([{ name: 'a.txt', content: TEXT, method: 0, aes }]);
  zip[100]! ^= 1;
  assert.equal(open(zip, ['k']).doubts[0]!.code, 'checksum');
});

test('two entries of one path are two files with bytes of their own', () => {
  const zip = zipOf([
    { name: 'd/a.txt', content: Buffer.from('first'), method: 0 },
    { name: 'd/a.txt', content: Buffer.from('second'), method: 8 }
  ]);
  assert.deepEqual(open(zip).contents, { 'x.zip/d/a.txt': 'first', 'x.zip/d/a (2).txt': 'second' });
});

test('entries that share their bytes are read once', () => {
  const zip = zipOf(
    Array.from({ length: 50 }, (_, i) => ({ name: `${i}.txt`, content: TEXT, method: 8 as const })),
    true
  );
  const { contents, tree } = open(zip);
  assert.equal(Object.keys(contents).length, 1);
  assert.ok(tree.notes.some(({ code }) => code === 'overlapping-entries'));
});
