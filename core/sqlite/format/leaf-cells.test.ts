import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { makeDatabase } from '../../tests/databases';
import { cellsOf } from './btree';
import { Database } from '../read/database';
import { LeafCells } from './leaf-cells';
import { readLeaf } from '../read/leaves';
import { TABLE_LEAF } from './page';
import { decodeRecord } from './record';
import { RecordCursor } from './record-cursor';

const bytes = makeDatabase(
  (db) =>
    db.run(`CREATE TABLE t(a INTEGER PRIMARY KEY, b, c TEXT);
      WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 400)
      INSERT INTO t SELECT CASE i % 9 WHEN 0 THEN -i WHEN 1 THEN i * 100000000000 ELSE i * 50 END,
        i % 5, hex(randomblob(i % 30 * (1 + i % 41 / 40 * 40))) FROM n`),
  'PRAGMA page_size=1024;'
);

test('cells in arrays and records under a cursor are those that are read one by one', () => {
  const database = Database.open({ main: new MemorySource('a.db', bytes) });
  const cells = new LeafCells();
  const cursor = new RecordCursor();
  let seen = 0;
  for (const page of database.walk(database.table('t')!)) {
    if (page.header.kind !== TABLE_LEAF) continue;
    assert.ok(readLeaf(cells, database, page));
    cellsOf(page, database.pages, ({ reason }) => assert.fail(reason)).forEach((cell, i) => {
      const { rowid, start, end, payload, payloadStart, local, overflow } = cell;
      const read = [cells.rowid, cells.start, cells.end, cells.payload].map((list) => list[i]);
      assert.deepEqual(read, [rowid, start, end, payload]);
      const rest = [cells.payloadStart, cells.local, cells.overflow].map((list) => list[i]);
      assert.deepEqual(rest, [payloadStart, local, overflow]);
      const record = database.payload(page.bytes, cell);
      assert.ok(cursor.read(record, 0, record.length));
      const values = Array.from({ length: cursor.count }, (_, at) => cursor.value(at, 'utf-8'));
      assert.deepEqual(values, decodeRecord(record, 'utf-8'));
      seen++;
    });
  }
  assert.equal(seen, 400);
});

test('a damaged leaf is read in whole or refused, never past its end', () => {
  const database = Database.open({ main: new MemorySource('a.db', bytes) });
  const cells = new LeafCells();
  const [page] = [...database.walk(database.table('t')!)].filter(
    ({ header }) => header.kind === TABLE_LEAF
  );
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.nat(1023), fc.nat(255))), (changes) => {
      const damaged = page!.bytes.slice();
      for (const [at, value] of changes) damaged[at] = value;
      if (!cells.read(damaged, page!.header, 1024, 1024)) return assert.equal(cells.count, 0);
      for (let i = 0; i < cells.count; i++) assert.ok(cells.end[i]! <= 1024);
    })
  );
});
