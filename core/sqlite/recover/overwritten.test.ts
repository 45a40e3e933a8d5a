import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { filesOf, finish, makeDatabase } from '../../tests/databases';
import { Database } from '../read/database';
import type { SqlValue } from '../format/record';
import { recoverTables } from './recover';
import type { FreedRow } from './row';

/** A table, how its rows are numbered and what they hold. What is overwritten depends on all three. */
interface Make {
  name: string;
  schema: string;
  /** Row number of the i-th row. */
  number: (i: number) => number;
  values: (i: number) => SqlValue[];
}

const short = (i: number): SqlValue[] => [`note ${i}`, i * 1000];
const long = (i: number): SqlValue[] => [
  `a longer note, number ${i}, that goes on ${'and on '.repeat(14)}`,
  i * 1000
];
const KEYED = 'CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, at INTEGER)';
const SPREAD: [string, (i: number) => number][] = [
  ['one byte', (i) => i],
  ['two bytes', (i) => 200 + i],
  ['three bytes', (i) => 20_000 + i],
  ['four bytes', (i) => 3_000_000 + i],
  ['five bytes', (i) => 400_000_000 + i],
  ['seven bytes', (i) => 5_000_000_000_000 + i],
  ['nine bytes, negative', (i) => -1_000_000 + i],
  ['nine bytes, its last byte large', (i) => -1_000_000 + 64 * i]
];

const MAKES: Make[] = [
  ...SPREAD.flatMap(([size, number]): Make[] => [
    { name: `payload of one byte, row number of ${size}`, schema: KEYED, number, values: short },
    { name: `payload of two bytes, row number of ${size}`, schema: KEYED, number, values: long }
  ]),
  {
    name: 'no column stands for the row number',
    schema: 'CREATE TABLE t(body TEXT, at INTEGER, more TEXT)',
    number: (i) => i,
    values: (i) => [`said ${i}`, i * 77_777, `more of ${i}`]
  },
  {
    name: 'the first column is a long text',
    schema: 'CREATE TABLE t(body TEXT, at INTEGER)',
    number: (i) => i,
    values: (i) => [
      `a first text of more than fifty-seven bytes, that of row ${i + 1000}`,
      i * 77_777
    ]
  },
  {
    name: 'many columns, most of them empty',
    schema: `CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, at INTEGER, ${Array.from({ length: 24 }, (_, i) => `c${i}`).join(', ')})`,
    number: (i) => i,
    values: (i) => [`body of ${i}`, i * 5000, ...Array.from({ length: 24 }, () => null)]
  },
  {
    name: 'numbers of all sizes before the text',
    schema: 'CREATE TABLE t(id INTEGER PRIMARY KEY, a INTEGER, b REAL, c BLOB, body TEXT)',
    number: (i) => i,
    values: (i) => [
      [0, 1, 100, 30_000, 8_000_000, 2_000_000_000, 2 ** 45][i % 7]!,
      i + 0.5,
      new Uint8Array([1, 2, i]),
      `the words of ${i}`
    ]
  },
  {
    name: 'without row numbers, number first',
    schema: 'CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, at INTEGER) WITHOUT ROWID',
    number: (i) => 500 + i,
    values: short
  },
  {
    name: 'without row numbers, text first',
    schema: 'CREATE TABLE t(id TEXT PRIMARY KEY, body TEXT, at INTEGER) WITHOUT ROWID',
    number: (i) => 70_000 + i,
    values: short
  }
];

const ROWS = 60;

function store({ schema, number, values }: Make, removed: readonly number[]): Uint8Array {
  return makeDatabase((db) => {
    db.run(schema);
    const hasKey = /^CREATE TABLE t\(id/.test(schema);
    const asText = /id TEXT/.test(schema);
    for (let i = 1; i <= ROWS; i++) {
      const own = values(i);
      const key = asText ? `k${number(i)}` : number(i);
      const all = hasKey ? [key, ...own] : own;
      const columns = hasKey ? '' : '(rowid, body, at' + (own.length > 2 ? ', more)' : ')');
      const given = hasKey ? all : [number(i), ...all];
      db.run(`INSERT INTO t${columns} VALUES(${given.map(() => '?').join(',')})`, given as never);
    }
    for (const i of removed) {
      const key = asText ? `'k${number(i)}'` : String(number(i));
      db.run(`DELETE FROM t WHERE ${hasKey ? 'id' : 'rowid'} = ${key}`);
    }
  });
}

function freed(bytes: Uint8Array): FreedRow[] {
  const database = Database.open(filesOf(bytes));
  return [...finish(recoverTables(database, { wanted: () => true, freed: true }))[0]!.freed];
}

/** The row without the column that stands for its number. */
function own(row: FreedRow, { schema }: Make): SqlValue[] {
  return /^CREATE TABLE t\(id/.test(schema) ? row.values.slice(1) : row.values;
}

/** Whether the text of a row still lies in the file: pages that became too empty are built anew. */
function isThere(bytes: Uint8Array, make: Make, i: number): boolean {
  const text = make.values(i).find((value) => typeof value === 'string')!;
  return Buffer.from(bytes).includes(text);
}

for (const make of MAKES) {
  test(`a cell that became a free block is read again: ${make.name}`, () => {
    let inBlocks = 0;
    for (const i of [5, 9, 14, 23]) {
      const bytes = store(make, [i]);
      if (!isThere(bytes, make, i)) continue;
      const rows = freed(bytes);
      assert.equal(rows.length, 1, `row ${i}`);
      assert.deepEqual(own(rows[0]!, make), make.values(i));
      if (rows[0]!.proofs.some(({ method }) => method === 'free-block')) inBlocks++;
    }
    assert.ok(inBlocks > 0);
  });

  test(`blocks that were merged give each of their cells: ${make.name}`, () => {
    const gone = [8, 9, 10, 17, 18];
    const bytes = store(make, gone);
    const there = gone.filter((i) => isThere(bytes, make, i));
    assert.ok(there.length >= 3);
    const found = freed(bytes).map((row) => JSON.stringify(own(row, make)));
    for (const i of there) assert.ok(found.includes(JSON.stringify(make.values(i))), `row ${i}`);
    for (const row of found)
      assert.ok(
        gone.some((i) => JSON.stringify(make.values(i)) === row),
        row
      );
  });
}

const WORDS = 'lorem ipsum dolor sit amet consectetur';
const FIRST_LOST: Make = {
  name: 'the length of the first text is lost',
  schema: 'CREATE TABLE t(body TEXT, at REAL, more TEXT)',
  number: (i) => i,
  values: (i) => [`${i} ${WORDS.slice(0, 4 + ((i * 17) % 31))}`, 6e8 + i * 60.5, `+4917${i * 7919}`]
};

test('merged cells come back in whatever order they were freed, also where the length of a text is lost', () => {
  for (const at of [6, 11, 22])
    for (const order of permutations([at, at + 1, at + 2, at + 3])) {
      const found = freed(store(FIRST_LOST, order)).map(({ values }) => values);
      found.sort((a, b) => Number(a[1]) - Number(b[1]));
      assert.deepEqual(found, [...order].sort((a, b) => a - b).map(FIRST_LOST.values), `${order}`);
    }
});

function permutations(list: number[]): number[][] {
  if (list.length < 2) return [list];
  return list.flatMap((one) =>
    permutations(list.filter((other) => other !== one)).map((rest) => [one, ...rest])
  );
}

test('any rows that are deleted in any order come back, each as it was', () => {
  const text = fc.string({
    unit: fc.constantFrom(...'abcdefgh ijklmnopqrst,.uvwxyz'),
    minLength: 8,
    maxLength: 90
  });
  const row = fc.record({
    body: text,
    at: fc.integer({ min: 1.6e9, max: 1.7e9 }),
    who: fc.nat(300)
  });
  const history = fc.record({
    rows: fc.uniqueArray(row, { minLength: 40, maxLength: 90, selector: ({ at }) => at }),
    order: fc.array(fc.nat(1000), { minLength: 1, maxLength: 15 })
  });
  fc.assert(
    fc.property(history, ({ rows, order }) => {
      const gone = [...new Set(order.map((n) => n % rows.length))];
      const bytes = makeDatabase((db) => {
        db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, who INTEGER, body TEXT, at INTEGER)');
        for (const [i, { body, at, who }] of rows.entries())
          db.run('INSERT INTO t VALUES(?, ?, ?, ?)', [i + 1, who, body, at]);
        for (const i of gone) db.run(`DELETE FROM t WHERE id = ${i + 1}`);
      });
      const found = freed(bytes);
      for (const { values } of found) {
        const at = rows.findIndex((one) => one.at === values[3]);
        assert.ok(gone.includes(at), `${JSON.stringify(values)} was never deleted`);
        assert.deepEqual(values.slice(1), [rows[at]!.who, rows[at]!.body, rows[at]!.at]);
      }
      for (const i of gone) {
        if (!Buffer.from(bytes).includes(rows[i]!.body)) continue;
        assert.ok(
          found.some(({ values }) => values[2] === rows[i]!.body),
          rows[i]!.body
        );
      }
    }),
    { numRuns: 60 }
  );
});
