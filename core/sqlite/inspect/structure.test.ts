import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { askSqlite, filesOf, makeDatabase } from '../../tests/databases';
import { cellsOf, walkTree } from '../format/btree';
import { Database } from '../read/database';
import { SqliteFormatError, type SqliteProblem } from '../format/errors';
import { freePages, trunks } from '../format/freelist';
import { headerAt, parseHeader } from '../format/header';
import { gatherOverflow } from '../format/overflow';
import { localSize, readCell, readPageHeader, TABLE_LEAF } from '../format/page';
import { decodeRecord, serialSize, type SqlValue } from '../format/record';
import { RecordCursor } from '../format/record-cursor';

const open = (bytes: Uint8Array): Database => Database.open(filesOf(bytes));

test('the header says what SQLite says of the file', () => {
  for (const [size, encoding, vacuum] of [
    [512, 'UTF-8', 0],
    [4096, 'UTF-16le', 1],
    [65536, 'UTF-16be', 2]
  ] as const) {
    const bytes = makeDatabase(
      (db) => db.run('CREATE TABLE t(a); CREATE TABLE gone(b); DROP TABLE gone'),
      `PRAGMA page_size=${size}; PRAGMA encoding='${encoding}'; PRAGMA auto_vacuum=${vacuum};`
    );
    const header = parseHeader(bytes, 'a.db');
    assert.equal(header.pageSize, size);
    assert.equal(header.encoding, encoding.toLowerCase());
    assert.equal(header.autoVacuum, vacuum > 0);
    assert.equal(header.pageCount * size, bytes.length);
    const ask = (name: string): unknown => askSqlite(bytes, `PRAGMA ${name}`)[0]![0];
    assert.equal(header.freelistCount, ask('freelist_count'));
    assert.equal(header.pageCount, ask('page_count'));
    assert.equal(header.schemaFormat, 4);
  }
});

const sound = makeDatabase((db) => db.run('CREATE TABLE t(a)'));

function changed(at: number, ...values: number[]): Uint8Array {
  const bytes = sound.slice();
  bytes.set(values, at);
  return bytes;
}

const REFUSED: [name: string, bytes: Uint8Array, problem: SqliteProblem, offset: number][] = [
  ['nothing', new Uint8Array(0), 'empty', 0],
  ['another magic line', changed(0, 0x73), 'not-a-database', 0],
  ['half a header', sound.subarray(0, 60), 'too-short', 60],
  ['a page size that is no power of two', changed(16, 0x10, 0x01), 'bad-page-size', 16],
  ['a page size below the least', changed(16, 0x01, 0x00), 'bad-page-size', 16],
  [
    'more reserved bytes than a page can spare',
    changed(16, 0x02, 0x00, 1, 1, 40),
    'bad-page-size',
    16
  ]
];

for (const [name, bytes, problem, offset] of REFUSED) {
  test(`a header is refused with the place and the reason: ${name}`, () => {
    assert.throws(
      () => parseHeader(bytes, 'a.db'),
      (error) =>
        error instanceof SqliteFormatError &&
        error.problem === problem &&
        error.offset === offset &&
        error.file === 'a.db'
    );
    assert.equal(headerAt(new MemorySource('a.db', bytes), 0), null);
  });
}

test('the free list names the pages that SQLite counts, each once', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(a INTEGER PRIMARY KEY, b TEXT)');
    for (let i = 0; i < 900; i++) db.run('INSERT INTO t(b) VALUES(?)', ['x'.repeat(400)]);
    db.run('DELETE FROM t WHERE a > 20');
  }, 'PRAGMA page_size=512;');
  const { pages, header } = open(bytes);
  const free = freePages(pages, header);
  assert.equal(free.size, header.freelistCount);
  const listed = [...trunks(pages, header)].flatMap(({ number, leaves }) => [number, ...leaves]);
  assert.equal(new Set(listed).size, listed.length);
  assert.ok([...trunks(pages, header)].length > 1, 'more than one trunk');
});

test('a free list that runs in a circle, or out of the file, ends', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(a, b); INSERT INTO t VALUES(1, zeroblob(9000)); DELETE FROM t');
  }, 'PRAGMA page_size=512;');
  const first = open(bytes).header.freelistTrunk;
  fc.assert(
    fc.property(fc.nat(0xffffffff), fc.nat(0xffffffff), (next, count) => {
      const damaged = Buffer.from(bytes);
      damaged.writeUInt32BE(next % 3 === 0 ? first : next, (first - 1) * 512);
      damaged.writeUInt32BE(count, (first - 1) * 512 + 4);
      const { pages, header } = open(damaged);
      const found = [...trunks(pages, header)];
      assert.ok(found.length <= pages.pageCount);
      for (const { slack, leaves } of found) {
        assert.ok(slack <= pages.usable);
        assert.ok(leaves.every((leaf) => pages.inRange(leaf)));
      }
    })
  );
});

test('payloads of any length are gathered whole; one whose chain is cut says so', () => {
  const lengths = [1, 476, 477, 478, 508, 900, 984, 985, 5000, 60_000];
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(a INTEGER PRIMARY KEY, b BLOB)');
    for (const length of lengths)
      db.run('INSERT INTO t(b) VALUES(?)', [new Uint8Array(length).fill(length % 251)]);
  }, 'PRAGMA page_size=512;');
  const database = open(bytes);
  const rows = [...database.rows(database.table('t')!)];
  assert.deepEqual(
    rows.map(({ values }) => (values[1] as Uint8Array).length),
    lengths
  );
  assert.ok(rows.every(({ values }) => new Set(values[1] as Uint8Array).size === 1));
  const { pages } = database;
  const all = gatherOverflow(pages, new Uint8Array(0), 5000, 3, () => true);
  const refused = gatherOverflow(pages, new Uint8Array(7), 5000, 3, (page) => page !== 3);
  assert.equal(refused.complete, false);
  assert.equal(refused.payload.length, 7);
  assert.ok(all.pages.every((page) => pages.inRange(page)));
});

test('what stays of a payload on its page follows the file format', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 480, max: 65536 }),
      fc.nat(300_000),
      fc.boolean(),
      (usable, payload, leaf) => {
        const local = localSize(payload, usable, leaf);
        const most = leaf ? usable - 35 : Math.floor(((usable - 12) * 64) / 255) - 23;
        const least = Math.floor(((usable - 12) * 32) / 255) - 23;
        assert.ok(local <= most && local <= payload);
        if (payload <= most) assert.equal(local, payload);
        else {
          assert.ok(local >= least);
          // Either the last overflow page is filled to its end, or the least stays here.
          assert.ok((payload - local) % (usable - 4) === 0 || local === least);
        }
      }
    )
  );
});

/** A record as the file format describes it (section 2.1), written the plain way. */
function encode(values: readonly SqlValue[]): Uint8Array {
  const serials: number[] = [];
  const parts: Buffer[] = [];
  for (const value of values) {
    const [serial, bytes] = encodeValue(value);
    serials.push(serial);
    parts.push(bytes);
  }
  const types = Buffer.concat(serials.map(varint));
  let size = types.length + 1;
  if (size > 127) size++;
  return new Uint8Array(Buffer.concat([varint(size), types, ...parts]));
}

function varint(value: number): Buffer {
  const bytes = [value % 128];
  for (let rest = Math.floor(value / 128); rest > 0; rest = Math.floor(rest / 128))
    bytes.unshift((rest % 128) | 0x80);
  return Buffer.from(bytes);
}

function encodeValue(value: SqlValue): [number, Buffer] {
  if (value === null) return [0, Buffer.alloc(0)];
  if (typeof value === 'string') {
    const bytes = Buffer.from(value);
    return [13 + 2 * bytes.length, bytes];
  }
  if (value instanceof Uint8Array) return [12 + 2 * value.length, Buffer.from(value)];
  if (value === 0) return [8, Buffer.alloc(0)];
  if (value === 1) return [9, Buffer.alloc(0)];
  const bytes = Buffer.alloc(8);
  if (typeof value === 'number' && !Number.isInteger(value)) {
    bytes.writeDoubleBE(value);
    return [7, bytes];
  }
  bytes.writeBigInt64BE(BigInt(value));
  for (const [serial, size] of [
    [1, 1],
    [2, 2],
    [3, 3],
    [4, 4],
    [5, 6]
  ] as const) {
    const limit = 2n ** BigInt(8 * size - 1);
    if (BigInt(value) >= -limit && BigInt(value) < limit) return [serial, bytes.subarray(8 - size)];
  }
  return [6, bytes];
}

const anyValue: fc.Arbitrary<SqlValue> = fc.oneof(
  fc.constant(null),
  fc.maxSafeInteger(),
  fc.integer({ min: -300, max: 300 }),
  fc
    .bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n })
    .filter((n) => !Number.isSafeInteger(Number(n))),
  fc.double({ noNaN: true, noDefaultInfinity: true }).filter((n) => !Number.isInteger(n)),
  fc.string({ unit: 'grapheme' }),
  fc.uint8Array()
);

test('a record reads back, whole or under a cursor, and its sizes add up', () => {
  fc.assert(
    fc.property(fc.array(anyValue, { minLength: 1, maxLength: 40 }), (values) => {
      const bytes = encode(values);
      assert.deepEqual(decodeRecord(bytes, 'utf-8'), values);
      const cursor = new RecordCursor();
      assert.ok(cursor.read(bytes, 0, bytes.length));
      assert.equal(cursor.count, values.length);
      assert.equal(cursor.starts[cursor.count], bytes.length);
      values.forEach((value, i) => {
        assert.deepEqual(cursor.value(i, 'utf-8'), value);
        assert.equal(cursor.starts[i + 1]! - cursor.starts[i]!, serialSize(cursor.types[i]!));
      });
    })
  );
});

test('a record that is cut gives the values before the cut, and the cursor refuses it', () => {
  fc.assert(
    fc.property(fc.array(anyValue, { minLength: 1, maxLength: 12 }), fc.nat(), (values, n) => {
      const bytes = encode(values);
      const length = n % bytes.length;
      const read = decodeRecord(bytes.subarray(0, length), 'utf-8');
      assert.deepEqual(read, values.slice(0, read.length));
      assert.equal(new RecordCursor().read(bytes, 0, length), false);
    })
  );
});

test('random bytes are read as a page without a cell past its end', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 512, maxLength: 512 }), (noise) => {
      const page = noise.slice();
      page[0] = TABLE_LEAF;
      const header = readPageHeader(page, 2);
      if (!header) return;
      for (let at = 0; at < 512; at++) {
        const cell = readCell(page, TABLE_LEAF, at, 512);
        if (cell) assert.ok(cell.end <= 512 && cell.payloadStart + cell.local <= 512);
      }
    })
  );
});

test('a tree whose pages refer to each other in a circle is walked once', () => {
  const bytes = Buffer.from(
    makeDatabase((db) => {
      db.run('CREATE TABLE t(a INTEGER PRIMARY KEY, b TEXT)');
      for (let i = 0; i < 400; i++) db.run('INSERT INTO t(b) VALUES(?)', [`row ${i} `.repeat(9)]);
    }, 'PRAGMA page_size=512;')
  );
  const root = open(bytes).table('t')!.root;
  bytes.writeUInt32BE(root, (root - 1) * 512 + 8);
  const { pages } = open(bytes);
  const seen: number[] = [];
  const reasons = new Set<string>();
  for (const page of walkTree(pages, root, ({ reason }) => reasons.add(reason))) {
    seen.push(page.number);
    cellsOf(page, pages, () => undefined);
  }
  assert.equal(new Set(seen).size, seen.length);
  assert.ok([...reasons].some((reason) => reason.includes('reached twice')));
});
