import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { filesOf, finish, makeDatabase } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { Database } from '../read/database';
import { hashBytes } from '../format/hash';
import type { SqlValue } from '../format/record';
import { RecordCursor } from '../format/record-cursor';
import { tableSchema } from '../format/schema';
import { copyOf, FreedRows, MOST_PROOFS, rowNumbersOf, WholeRows } from './freed-rows';
import { recoverTables, type RecoveredTable } from './recover';
import type { RowProof, WholeRow } from './row';
import { searchAll, searchShare, transferOf, type SearchCrew } from './share';
import { mapPages } from './owners';
import { tableLayout, learnRow } from './layout';

const table = tableSchema({
  type: 'table',
  name: 'note',
  table: 'note',
  root: 2,
  sql: 'CREATE TABLE note(id INTEGER PRIMARY KEY, n INTEGER, body TEXT)'
})!;

/** A record of three values by the file format: the row number's place is empty. */
function recordOf(n: number, body: string): Uint8Array {
  const text = Buffer.from(body);
  const serial = 13 + 2 * text.length;
  const head = serial < 128 ? [4, 0, 1, serial] : [5, 0, 1, (serial >> 7) | 0x80, serial & 0x7f];
  return Buffer.concat([Buffer.from(head), Buffer.from([n]), text]);
}

function proofAt(offset: number, file = 'a.db'): RowProof {
  return { file, page: 1 + (offset >> 12), offset, length: 20, method: 'free-block' };
}

interface Made {
  rowid: number | bigint | null;
  n: number;
  body: string;
  offset: number;
}

const made: fc.Arbitrary<Made> = fc.record({
  rowid: fc.oneof(
    fc.constant(null),
    fc.integer({ min: -5, max: 1e9 }),
    fc.bigInt({ min: 2n ** 53n, max: 2n ** 63n - 1n })
  ),
  n: fc.integer({ min: 2, max: 100 }),
  body: fc.string({ unit: 'grapheme', maxLength: 60 }),
  offset: fc.nat(1e9)
});

function rowOf({ rowid, n, body, offset }: Made): WholeRow {
  const record = recordOf(n, body);
  const proof = proofAt(offset, offset % 3 === 0 ? 'a.db-wal' : 'a.db');
  return {
    table: 'note',
    rowid,
    record,
    hash: hashBytes(record),
    score: 50,
    rebuilt: 4,
    spill: 0,
    proof
  };
}

function holds(rows: WholeRows, expected: readonly Made[]): void {
  assert.equal(rows.count, expected.length);
  expected.forEach((one, at) => {
    const { rowid, values, proofs, rebuilt, score } = rows.row(at);
    assert.equal(rowid, one.rowid);
    assert.deepEqual(values.slice(1), [one.n, one.body] satisfies SqlValue[]);
    assert.deepEqual(values[0], one.rowid);
    assert.deepEqual([proofs[0]!.offset, rebuilt, score], [one.offset, 4, 50]);
  });
}

test('rows come back as they were added', () => {
  fc.assert(
    fc.property(fc.array(made, { maxLength: 40 }), (list) => {
      const rows = new WholeRows(table, 'utf-8');
      for (const one of list) rows.add(rowOf(one));
      holds(rows, list);
    })
  );
});

test('rows that go from thread to thread are the same, whoever found which', () => {
  fc.assert(
    fc.property(fc.array(fc.array(made, { maxLength: 12 }), { maxLength: 5 }), (parts) => {
      const all = new WholeRows(table, 'utf-8');
      for (const part of parts) {
        const rows = new WholeRows(table, 'utf-8');
        for (const one of part) rows.add(rowOf(one));
        all.append(structuredClone(rows.take()));
      }
      holds(all, parts.flat());
    })
  );
});

test('what is copied can be appended twice', () => {
  const rows = new WholeRows(table, 'utf-8');
  const list: Made[] = [{ rowid: 4, n: 7, body: 'rope', offset: 100 }];
  for (const one of list) rows.add(rowOf(one));
  const packed = rows.take();
  const twice = new WholeRows(table, 'utf-8');
  twice.append(copyOf(packed));
  twice.append(packed);
  holds(twice, [...list, ...list]);
});

test('rows behind those that were taken over are kept too', () => {
  const first = new WholeRows(table, 'utf-8');
  first.add(rowOf({ rowid: 1, n: 5, body: 'a', offset: 1 }));
  const rows = new WholeRows(table, 'utf-8');
  rows.append(first.take());
  rows.add(rowOf({ rowid: 2, n: 6, body: 'b', offset: 2 }));
  holds(rows, [
    { rowid: 1, n: 5, body: 'a', offset: 1 },
    { rowid: 2, n: 6, body: 'b', offset: 2 }
  ]);
});

test('a record that is longer than a segment is kept whole', () => {
  const body = 'x'.repeat(3 << 20);
  const text = Buffer.from(body);
  const serial = 13 + 2 * text.length;
  const varint = [
    (serial >> 21) | 0x80,
    ((serial >> 14) & 0x7f) | 0x80,
    ((serial >> 7) & 0x7f) | 0x80,
    serial & 0x7f
  ];
  const record = Buffer.concat([Buffer.from([7, 0, 1, ...varint, 9]), text]);
  const rows = new WholeRows(table, 'utf-8');
  const short = { rowid: 1, n: 3, body: 'before', offset: 1 };
  rows.add(rowOf(short));
  rows.add({ ...rowOf(short), record });
  rows.add(rowOf(short));
  assert.equal(rows.row(1).values[2], body);
  assert.deepEqual([rows.row(0).values[2], rows.row(2).values[2]], ['before', 'before']);
});

test('copies give their places to the row that they are copies of', () => {
  const rows = new WholeRows(table, 'utf-8');
  for (let i = 0; i < MOST_PROOFS + 5; i++)
    rows.add(rowOf({ rowid: 1, n: 5, body: 'a', offset: i * 3 + 1 }));
  rows.absorb(0, 1);
  rows.absorb(0, 1);
  assert.deepEqual(
    rows.facts(0).proofs.map(({ offset }) => offset),
    [1, 4]
  );
  assert.equal(rows.facts(0).score, 52);
  for (let at = 2; at < rows.count; at++) rows.absorb(0, at);
  assert.equal(rows.facts(0).proofs.length, MOST_PROOFS);
});

test('those that stay are told by their places, and cut ones follow', () => {
  const freed = new FreedRows(table, 'utf-8');
  for (let i = 0; i < 5; i++) freed.add(rowOf({ rowid: i, n: 5, body: `${i}`, offset: i }));
  const cut = { ...freed.whole.row(0), rowid: 77, lost: [2] };
  freed.add(cut);
  assert.equal(freed.length, 6);
  freed.keep(Uint32Array.of(1, 3));
  assert.deepEqual(
    [...freed].map(({ rowid }) => rowid),
    [1, 3, 77]
  );
  assert.deepEqual(
    [0, 1, 2, 3].map((at) => freed.at(at)?.rowid),
    [1, 3, 77, undefined]
  );
  assert.deepEqual(
    [0, 1, 2].map((at) => freed.rowidAt(at)),
    [1, 3, 77]
  );
  assert.deepEqual([...rowNumbersOf(freed)], [1, 3, 77]);
  const cursor = new RecordCursor();
  assert.ok(freed.point(cursor, 1));
  assert.equal(cursor.value(2, 'utf-8'), '3');
  assert.equal(freed.point(cursor, 2), false);
  assert.equal(freed.factsAt(2), cut);
});

const bytes = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(1200, seeded(8)));
  db.run('DELETE FROM sms WHERE _id % 5 = 0 OR _id BETWEEN 300 AND 380');
}, 'PRAGMA page_size=1024;');

function recovered(crew?: SearchCrew): string[] {
  const database = Database.open(filesOf(bytes));
  const options = { wanted: (t: { name: string }) => t.name === 'sms', freed: true };
  const [sms] = finish(recoverTables(database, crew ? { ...options, crew } : options));
  return told(sms!);
}

function told({ freed }: RecoveredTable): string[] {
  return [...freed].map(
    ({ rowid, values, proofs }) => `${rowid} ${proofs[0]!.offset} ${String(values[10])}`
  );
}

test('a database that is searched in stretches gives what it gives as one', () => {
  const database = Database.open(filesOf(bytes));
  const schema = database.table('sms')!;
  const layout = tableLayout(schema, true);
  for (const { values, stored } of database.rows(schema)) learnRow(layout, values, stored);
  const uses = mapPages(database);
  const { pageCount } = database.pages;
  const offsets = (ranges: [number, number][]): number[] =>
    ranges.flatMap(([from, to]) => {
      const found = finish(searchShare(database, [layout], uses, { from, to }));
      assert.ok(transferOf(found).every((buffer) => buffer instanceof ArrayBuffer));
      return found.rows.flatMap(([, { columns, count }]) => [...columns.offset.subarray(0, count)]);
    });
  const whole = offsets([[1, pageCount]]);
  assert.ok(whole.length > 200);
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 2, max: pageCount }), { maxLength: 6 }),
      (cuts) => {
        const starts = [1, ...cuts.sort((a, b) => a - b)];
        const ranges = starts.map((from, i): [number, number] => [
          from,
          (starts[i + 1] ?? pageCount + 1) - 1
        ]);
        assert.deepEqual(offsets(ranges), whole);
      }
    ),
    { numRuns: 20 }
  );
});

test('files of few pages are not shared, and nothing waits for others', () => {
  const database = Database.open(filesOf(bytes));
  const crew: SearchCrew = {
    begin: () => {
      throw new Error('nobody was to be asked');
    },
    readers: () => []
  };
  for (const step of searchAll(database, [], mapPages(database), crew)) assert.ok('done' in step);
  assert.ok(recovered().length > 200);
  assert.deepEqual(recovered(crew), recovered());
});
