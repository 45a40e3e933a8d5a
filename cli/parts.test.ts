import assert from 'node:assert/strict';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeReason } from '../core/host';
import { test } from 'node:test';
import fc from 'fast-check';
import { BatchBuilder, emptyFindings, type JsonChunk, type MessageBatch } from '../core/records';
import { messageRecord } from '../core/tests/records';
import { FileSource, listFolder } from './file-source';
import { openInputs } from './inputs';
import { parseOptions } from './options';
import { UsageError } from './usage-error';
import { DiskScratch } from './scratch';
import { CaseFileWriter } from './write';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));

function file(name: string, bytes: Uint8Array | string): string {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return path;
}

function chunk(bytes: Uint8Array): JsonChunk {
  return { bytes, stored: () => undefined };
}

test('the command is told by its words', () => {
  const keys = file('keys.txt', '\ufeffwinter tide\r\n  blanks count  \n\n0a1b\n');
  const all = parseOptions(
    ['a', '--out', 'o.json', 'b', '--depth', 'whole', '--zone', 'Europe/Oslo', '--quiet'].concat([
      '--want',
      'messages, calls',
      '--key-file',
      keys,
      '--attachments',
      'media'
    ])
  );
  assert.deepEqual(all.paths, ['a', 'b']);
  assert.deepEqual(
    [all.out, all.depth, all.zone, all.quiet],
    ['o.json', 'whole', 'Europe/Oslo', true]
  );
  assert.deepEqual(all.keys, ['winter tide', '  blanks count  ', '', '0a1b']);
  assert.deepEqual([...all.kinds], ['messages', 'calls']);
  assert.equal(all.attachments, 'media');
});

test('what is not said has its usual value', () => {
  const { depth, zone, quiet, keys, kinds, attachments } = parseOptions(['a', '--out', 'o.json']);
  assert.deepEqual([depth, zone, quiet, keys, attachments], ['freed', 'Etc/UTC', false, [], null]);
  assert.deepEqual([...kinds].sort(), ['calls', 'contacts', 'files', 'media', 'messages']);
});

test('a wrong call is told in one sentence that names what is wrong', () => {
  const cases: [string[], RegExp][] = [
    [[], /at least one file/],
    [['a'], /--out/],
    [['a', '--out'], /--out/],
    [['a', '--out', 'o', '--depth', 'deep'], /"deep"/],
    [['a', '--out', 'o', '--zone', 'Sea/Middle'], /"Sea\/Middle"/],
    [['a', '--out', 'o', '--want', 'messages,songs'], /"songs"/],
    [['a', '--out', 'o', '--key-file', join(folder, 'none')], /key file/],
    [['a', '--out', 'o', '--depht', 'freed'], /--depht/]
  ];
  for (const [args, says] of cases)
    assert.throws(
      () => parseOptions(args),
      (error) => error instanceof UsageError && says.test(error.message),
      args.join(' ')
    );
});

test('a file is read within its bounds, whatever is asked', () => {
  const bytes = Uint8Array.from({ length: 10_000 }, (_, i) => (i * 7) & 0xff);
  const source = new FileSource(file('read.bin', bytes), 'read.bin');
  assert.equal(source.size, 10_000);
  fc.assert(
    fc.property(fc.nat(11_000), fc.nat(11_000), (offset, length) => {
      const expected = bytes.subarray(offset, offset + length);
      assert.ok(Buffer.from(source.read(offset, length)).equals(expected));
    }),
    { numRuns: 50 }
  );
});

test('more files than may be open at once can be read in turn', () => {
  const sources = Array.from({ length: 300 }, (_, i) => {
    const name = `many-${i}.bin`;
    return new FileSource(file(name, `file number ${i}`), name);
  });
  for (const round of [0, 1])
    for (const [i, source] of sources.entries())
      assert.equal(Buffer.from(source.read(0, 50)).toString(), `file number ${i}`, `${round}`);
});

test('a folder is listed below itself, in one order, by what is in it', () => {
  const root = join(folder, 'listed');
  mkdirSync(join(root, 'b', 'deep'), { recursive: true });
  for (const name of ['b/deep/2', 'b/1', 'a', 'c']) writeFileSync(join(root, name), name);
  const { files, refused } = listFolder(root);
  assert.deepEqual(
    files.map(({ name }) => name),
    ['a', 'b/1', 'b/deep/2', 'c']
  );
  assert.deepEqual(refused, []);
});

test('a log or journal belongs to its database, named or not', () => {
  const database = file('inputs.db', 'x');
  file('inputs.db-wal', 'y');
  for (const paths of [[database], [database, `${database}-wal`], [database, database]]) {
    const { inputs } = openInputs(paths);
    assert.deepEqual(
      inputs.map(({ files }) => files.map(({ name }) => name)),
      [['inputs.db', 'inputs.db-wal']]
    );
  }
  const alone = openInputs([`${database}-wal`]);
  assert.deepEqual(
    alone.inputs.map(({ name }) => name),
    ['inputs.db-wal']
  );
  const { inputs, unopened } = openInputs([join(folder, 'gone.db'), database]);
  assert.equal(inputs[0]!.id, 's1');
  assert.match(unopened[0]!.reason, /does not exist/);
});

test('scratch that grows past memory goes to a file without a name, and reads the same', () => {
  const scratch = new DiskScratch();
  const part = Uint8Array.from({ length: 1 << 20 }, (_, i) => (i * 13) & 0xff);
  for (let i = 0; i < 10; i++) scratch.write(part);
  const source = scratch.finish('unpacked');
  assert.equal(source.size, 10 << 20);
  for (const at of [0, (8 << 20) - 5, (9 << 20) + 77, (10 << 20) - 3]) {
    const expected = Buffer.concat([part, part])
      .subarray(at % (1 << 20))
      .subarray(0, 10);
    const read = Buffer.from(source.read(at, 10));
    assert.ok(read.equals(expected.subarray(0, read.length)), `${at}`);
    assert.equal(read.length, Math.min(10, source.size - at));
  }
});

/** Messages in columns, with these ids. */
function batchOf(...ids: string[]): MessageBatch {
  const builder = new BatchBuilder('s1.1');
  for (const id of ids) builder.add(messageRecord({ id, body: `line ${id} with "quotes"` }));
  return builder.take();
}

const NOTHING = { sources: [], findings: emptyFindings(), files: [] };

/** Records as JSON in the writer's frame, as a pass gives them. */
function framed(writer: CaseFileWriter, ids: readonly string[]): Uint8Array {
  const { before, after } = writer.frame;
  return Buffer.from(ids.map((id) => `${before}"id":"${id}"}${after}`).join(''));
}

test('messages and records that come as JSON make one document, whichever is first', async () => {
  for (const [name, order] of [
    ['first.json', 'messages'],
    ['second.json', 'records']
  ] as const) {
    const path = join(folder, name);
    const writer = new CaseFileWriter(path, { made: new Date(0), zone: 'Etc/UTC' });
    const steps = [
      () => writer.batch(batchOf('a', 'b')),
      () => writer.records(chunk(framed(writer, ['c', 'd'])))
    ];
    for (const step of order === 'messages' ? steps : steps.reverse()) step();
    writer.records(chunk(framed(writer, ['e'])));
    assert.equal(existsSync(path), false, 'it has its name only when it is whole');
    await writer.finish(NOTHING);
    const { messages, made, gaps } = JSON.parse(readFileSync(path, 'utf8'));
    const ids = messages.map(({ id }: { id: string }) => id).join('');
    assert.equal(ids, order === 'messages' ? 'abcde' : 'cdabe');
    assert.deepEqual([made, gaps], ['1970-01-01T00:00:00.000Z', []]);
  }
});

test('a case without messages is a document too, and lines are one record each', async () => {
  const empty = join(folder, 'empty.json');
  await new CaseFileWriter(empty, { made: new Date(0), zone: 'Etc/UTC' }).finish(NOTHING);
  assert.deepEqual(JSON.parse(readFileSync(empty, 'utf8')).messages, []);
  const path = join(folder, 'some.jsonl');
  const lines = new CaseFileWriter(path, { made: new Date(0), zone: 'Etc/UTC' });
  lines.batch(batchOf('a'));
  lines.records(chunk(framed(lines, ['b'])));
  await lines.keepUp();
  await lines.finish(NOTHING);
  const records = readFileSync(path, 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line));
  assert.deepEqual(
    records.map(({ record, id }) => `${record} ${id}`),
    ['case undefined', 'message a', 'message b']
  );
});

test('what is written in many pieces comes in order', async () => {
  const path = join(folder, 'many.json');
  const writer = new CaseFileWriter(path, { made: new Date(0), zone: 'Etc/UTC' });
  const ids: string[] = [];
  for (let i = 0; i < 3000; i++) {
    ids.push(`m${i}`);
    if (i % 7 === 0) writer.records(chunk(framed(writer, [`m${i}`])));
    else writer.batch(batchOf(`m${i}`));
    if (i % 500 === 0) await writer.keepUp();
  }
  await writer.finish(NOTHING);
  const { messages } = JSON.parse(readFileSync(path, 'utf8'));
  assert.deepEqual(
    messages.map(({ id }: { id: string }) => id),
    ids
  );
});

test('a disk that takes no more is told, not swallowed', async () => {
  if (!existsSync('/dev/full')) return;
  const path = join(folder, 'full.json');
  const { symlinkSync } = await import('node:fs');
  const partial = `${path}.partial`;
  symlinkSync('/dev/full', partial);
  const writer = new CaseFileWriter(path, { made: new Date(0), zone: 'Etc/UTC' }, partial);
  writer.batch(batchOf(...Array.from({ length: 20_000 }, (_, i) => `m${i}`)));
  await assert.rejects(writer.finish(NOTHING), /ENOSPC/);
  assert.equal(existsSync(path), false);
});

test('what the system says of a place that cannot be written becomes one sentence', () => {
  const refused = (code: string): Error =>
    Object.assign(new Error(code), { code, syscall: 'write' });
  const cases: [string, RegExp][] = [
    ['ENOSPC', /^has no room left$/],
    ['EROFS', /^is read only$/],
    ['ENAMETOOLONG', /name that is too long$/],
    ['EXDEV', /^could not be written \(EXDEV\)$/]
  ];
  for (const [code, sentence] of cases) assert.match(writeReason(refused(code))!, sentence);
  assert.equal(writeReason(new Error('a slip of the program')), null);
});
