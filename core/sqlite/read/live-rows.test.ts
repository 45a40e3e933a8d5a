import assert from 'node:assert/strict';
import { test } from 'node:test';
import { finish, filesOf, makeDatabase, snapshot } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { Database, type LiveRow } from './database';
import { sketchRange } from '../format/hash';
import { leafAt } from './leaves';
import {
  indexOf,
  isReread,
  placesOf,
  readLiveRows,
  sampleOf,
  type LargeRows,
  type LiveRows
} from './live-rows';
import { readCell } from '../format/page';
import type { SqlValue } from '../format/record';

const COUNT = 1500;

function sketchOf(database: Database, number: number, offset: number): number {
  const { pages } = database;
  const page = leafAt(database, number)!;
  const start = offset - pages.place(number).offset;
  const payload = database.payload(
    page.bytes,
    readCell(page.bytes, page.header.kind, start, pages.usable)!
  );
  return sketchRange(payload, 0, payload.length);
}

const SOURCES: [says: string, bytes: Uint8Array, wal?: Uint8Array][] = [
  ['pages of 4096 bytes', telephony('')],
  ['pages of 512 bytes, where bodies spill', telephony('PRAGMA page_size=512;')],
  ['wide text', telephony("PRAGMA encoding='UTF-16be';")],
  ['a log over it', ...logged()]
];

function telephony(pragmas: string): Uint8Array {
  return makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(COUNT, seeded(4)));
    db.run('DELETE FROM sms WHERE _id % 7 = 0');
    db.run(
      "INSERT INTO sms(_id, address, date, body) VALUES(-5,'+1',7,'before zero'),(0,'+1',8,'zero')"
    );
  }, pragmas);
}

function logged(): [Uint8Array, Uint8Array] {
  const { main, wal } = snapshot(
    `PRAGMA page_size=1024; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${TELEPHONY_SCHEMA}
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${COUNT})
INSERT INTO sms(_id, address, date, body) SELECT i, '+44770090' || (i % 9), 1700000000000 + i, 'wording ' || i FROM n;
PRAGMA wal_checkpoint(TRUNCATE);
UPDATE sms SET body = 'changed ' || body WHERE _id % 11 = 0;
DELETE FROM sms WHERE _id % 5 = 0;
SNAPSHOT
`,
    'SELECT count(*) FROM sms'
  );
  return [main, wal!];
}

function both(bytes: Uint8Array, wal?: Uint8Array): { held: LiveRow[]; large: LargeRows } {
  const database = Database.open(filesOf(bytes, wal));
  const table = database.table('sms')!;
  const held = finish(readLiveRows(database, table));
  const large = finish(readLiveRows(database, table, { mostHeld: 100 }));
  assert.ok(Array.isArray(held) && isReread(large));
  return { held: held as LiveRow[], large };
}

/** All of a row that others ask for. */
function told({ rowid, values, hash, page, offset, length, file }: LiveRow): unknown {
  return { rowid, values, hash, page, offset, length, file };
}

for (const [says, bytes, wal] of SOURCES) {
  test(`rows that are read again are those that are held: ${says}`, () => {
    const { held, large } = both(bytes, wal);
    assert.equal(large.length, held.length);
    assert.deepEqual([...large].map(told), held.map(told));
    for (const at of [0, 1, 99, 100, 101, held.length - 1])
      assert.deepEqual(told(large.at(at)!), told(held[at]!), `${at}`);
    assert.equal(large.at(held.length), undefined);
  });

  test(`rows and copies of them are found by number and by their bytes: ${says}`, () => {
    const { held, large } = both(bytes, wal);
    const indexes = [indexOf(held as LiveRows), indexOf(large)];
    const numbers = new Map(held.map((row) => [row.rowid, row]));
    for (let number = -8; number < COUNT + 8; number++) {
      const row = numbers.get(number);
      for (const index of indexes) assert.equal(index.has(number), row !== undefined, `${number}`);
      assert.deepEqual(large.numbered(number)?.values, row?.values);
    }
    const database = Database.open(filesOf(bytes, wal));
    for (const { rowid, hash, page, offset } of held) {
      const sketch = sketchOf(database, page, offset);
      for (const index of indexes) {
        assert.ok(index.isCopy({ rowid, hash, sketch }), `${rowid}`);
        assert.ok(index.isCopy({ rowid: null, hash, sketch }));
        assert.ok(!index.isCopy({ rowid, hash: hash + 1, sketch }), 'other bytes between its ends');
        assert.ok(!index.isCopy({ rowid: null, hash: hash + 1, sketch }));
        assert.ok(!index.isCopy({ rowid: Number(rowid) + COUNT, hash, sketch }));
      }
    }
    assert.equal(large.last, Math.max(...held.map(({ rowid }) => Number(rowid))));
    assert.deepEqual(
      [...large.numbers()],
      held.map(({ rowid }) => rowid)
    );
  });

  test(`rows are found by a value, without those that cannot hold it: ${says}`, () => {
    const { held, large } = both(bytes, wal);
    const column = 4;
    const stored = Database.open(filesOf(bytes, wal)).table('sms')!.order.indexOf(column);
    const wanted = new Set<SqlValue>(
      held.filter((_, i) => i % 97 === 0).map(({ values }) => values[column]!)
    );
    const found = [...large.holding(stored, (value) => wanted.has(value))];
    const sure = found.filter(({ values }) => wanted.has(values[column]!));
    assert.deepEqual(
      sure.map(told),
      held.filter(({ values }) => wanted.has(values[column]!)).map(told)
    );
    // Only rows whose record is not on one page come without being asked about.
    assert.ok(found.length < held.length);
  });

  test(`leaves hold all rows, in the order of the tree: ${says}`, () => {
    const { held, large } = both(bytes, wal);
    const database = Database.open(filesOf(bytes, wal));
    const rows = [...large.leaves()].flatMap((page) => {
      assert.equal(leafAt(database, page)?.number, page);
      return large.rowsOf(large.leaf(page)!);
    });
    assert.deepEqual(rows.map(told), held.map(told));
    assert.equal(new Set(large.leaves()).size, large.leaves().length);
  });

  test(`places and a sample are those of the rows: ${says}`, () => {
    const { held, large } = both(bytes, wal);
    const places = [...placesOf(large)].map(() => 0).length;
    assert.equal(places, held.length);
    let at = 0;
    for (const { rowid, page, offset } of placesOf(large)) {
      const row = held[at++]!;
      assert.deepEqual([rowid, page, offset], [row.rowid, row.page, row.offset]);
    }
    const sample = [...sampleOf(large)];
    assert.ok(sample.length > 10 && sample.length < held.length);
    const known = new Map(held.map((row) => [row.rowid, row.hash]));
    for (const { rowid, hash } of sample) assert.equal(known.get(rowid), hash);
  });
}

test('pages whose rows were not appended in order are told', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT)');
    for (let i = 0; i < 600; i++) db.run('INSERT INTO t VALUES(?, ?)', [i, `wording number ${i}`]);
    // The one that is put back first takes the place of the other.
    db.run('DELETE FROM t WHERE id IN (3, 4)');
    for (const id of [4, 3]) db.run('INSERT INTO t VALUES(?, ?)', [id, `wording number ${id}`]);
  });
  const database = Database.open(filesOf(bytes));
  const rows = finish(readLiveRows(database, database.table('t')!, { mostHeld: 50 })) as LargeRows;
  assert.deepEqual([...rows.shuffled()].length, 1);
  assert.ok(rows.shuffled().has(rows.numbered(3)!.page));
});

test('a page that is no leaf is none', () => {
  const database = Database.open(filesOf(SOURCES[0]![1]));
  assert.equal(leafAt(database, database.table('sms')!.root), null);
  assert.equal(leafAt(database, 999_999), null);
});

test('row numbers past 2^53 that come behind many others lose no row', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE notes(id INTEGER PRIMARY KEY, body TEXT)');
    const from = (first: string, count: number): string =>
      `WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${count})
       INSERT INTO notes SELECT ${first} + i, 'wording ' || i FROM n`;
    db.run(from('0', 900));
    db.run(from('9000000000000000000', 600));
  });
  const database = Database.open(filesOf(bytes));
  const rows = finish(readLiveRows(database, database.table('notes')!, { mostHeld: 300 }));
  assert.equal(rows.length, 1500);
  assert.equal([...rows].at(-1)!.rowid, 9000000000000000600n);
});
