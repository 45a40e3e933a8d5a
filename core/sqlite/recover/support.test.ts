import assert from 'node:assert/strict';
import { test } from 'node:test';
import { filesOf, finish, makeDatabase } from '../../tests/databases';
import { Database } from '../read/database';
import { recoverTables } from './recover';
import type { FreedRow } from './row';

/** What was written into a table that has no column for its row numbers, and what of it was deleted. */
interface History {
  bytes: Uint8Array;
  numbers: ReadonlyMap<string, number>;
  deleted: ReadonlySet<string>;
}

/** Rows come and go: entries of the index take the place of others, a few bytes shorter or longer. */
function history(
  seed: number,
  code: (n: number, random: (most: number) => number) => string
): History {
  let state = seed * 7919;
  const random = (most: number): number =>
    (state = (state * 1_103_515_245 + 12_345) % 2 ** 31) % most;
  const numbers = new Map<string, number>();
  const deleted = new Set<string>();
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(code TEXT, at INTEGER, body TEXT)');
    db.run('CREATE UNIQUE INDEX by_code ON t(code)');
    const live: string[] = [];
    const put = (n: number): void => {
      const [name, number] = [code(n, random), 70_000 + 3 * n];
      numbers.set(name, number);
      live.push(name);
      const row = [number, name, 1_700_000_000 + 61 * n, `the words of ${n} and more`];
      db.run('INSERT INTO t(rowid, code, at, body) VALUES (?, ?, ?, ?)', row);
    };
    db.run('BEGIN');
    for (let n = 0; n < 900; n++) put(n);
    for (let i = 0; i < 500; i++) {
      const [gone] = live.splice(random(live.length), 1);
      db.run('DELETE FROM t WHERE code = ?', [gone!]);
      deleted.add(gone!);
      if (i % 4 === 0) put(900 + i);
    }
    db.run('COMMIT');
  });
  return { bytes, numbers, deleted };
}

function freed(bytes: Uint8Array): FreedRow[] {
  const options = { wanted: () => true, freed: true };
  return [...finish(recoverTables(Database.open(filesOf(bytes)), options))[0]!.freed];
}

const CODES: [string, Parameters<typeof history>[1]][] = [
  ['of many lengths', (n, random) => `${(1_000_003 * n) % 9973}-${'x'.repeat(random(4))}${n}`],
  ['of few lengths', (n) => `${(1_000_003 * n) % 9973}-${n}`],
  ['all built alike', (n) => `${String((1_000_003 * n) % 9973).padStart(4, '0')}-${1000 + n}`]
];

for (const [name, code] of CODES)
  test(`row numbers that cells lost come from the entries of an index, texts ${name}`, () => {
    for (const seed of [1, 2, 3]) {
      const { bytes, numbers, deleted } = history(seed, code);
      const found = freed(bytes).filter(({ values }) => deleted.has(values[0] as string));
      const told = found.filter(({ rowid }) => rowid !== null);
      const right = told.filter(({ rowid, values }) => rowid === numbers.get(values[0] as string));
      assert.ok(found.length > 400, `${found.length} of ${deleted.size} rows are there`);
      assert.ok(told.length > 0.7 * found.length, `${told.length} of ${found.length} are told`);
      // A byte that was left behind an entry can pass for the last one of its number.
      assert.ok(told.length - right.length <= 0.02 * told.length, `${right.length} are right`);
    }
  });
