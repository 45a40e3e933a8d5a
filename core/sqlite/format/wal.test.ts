import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import fc from 'fast-check';
import { beginAnew, writeLog, type LogCommit } from '../../../bench/writers/log';
import { MemorySource } from '../../host';
import { askAfter, filesOf, makeDatabase } from '../../tests/databases';
import { Database } from '../read/database';
import { statesOf } from '../inspect/history';
import { logStretches } from '../inspect';
import { readWal } from './wal';

const SIZE = 512;
const base = makeDatabase((db) => {
  db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT)');
  for (let i = 1; i <= 60; i++) db.run('INSERT INTO t VALUES(?, ?)', [i, `line ${i} of the log`]);
}, `PRAGMA page_size=${SIZE};`);

/** States one after the other, each made by SQLite from the one before. */
function statesAfter(from: Uint8Array, statements: readonly string[]): Uint8Array[] {
  const out: Uint8Array[] = [];
  let now = from;
  for (const sql of statements) out.push((now = askAfter(now, sql)));
  return out;
}

const STATEMENTS = [
  "INSERT INTO t VALUES(61, 'one more')",
  "UPDATE t SET body = 'changed' WHERE id = 7",
  'DELETE FROM t WHERE id BETWEEN 20 AND 29',
  "INSERT INTO t SELECT id + 100, 'copy of ' || body FROM t",
  'DELETE FROM t WHERE id > 90'
];
const states = statesAfter(base, STATEMENTS);
const commits: LogCommit[] = states.map((bytes) => ({ bytes }));
const log = writeLog(base, commits, { pageSize: SIZE });

function bodies(main: Uint8Array, wal?: Uint8Array): string[] {
  const database = Database.open(filesOf(main, wal));
  return [...database.rows(database.table('t')!)].map(({ values }) => String(values[1]));
}

test('a log that was written by the description is read by SQLite as by us', () => {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
  const main = Buffer.from(base);
  // Read and write version 2: the file is in log mode.
  main[18] = 2;
  main[19] = 2;
  writeFileSync(join(folder, 'a.db'), main);
  writeFileSync(join(folder, 'a.db-wal'), log);
  const query = 'SELECT body FROM t ORDER BY id';
  const answer = execFileSync('sqlite3', [join(folder, 'a.db'), query], { encoding: 'utf8' });
  assert.deepEqual(bodies(base, log), answer.trimEnd().split('\n'));
});

test('each commit is a state, and its pages are those that SQLite had then', () => {
  const database = Database.open(filesOf(base, log));
  const found = statesOf(database);
  assert.equal(found.length, states.length + 1);
  for (const [i, state] of [base, ...states].entries())
    for (let number = 1; number * SIZE <= state.length; number++) {
      const expected = state.subarray((number - 1) * SIZE, number * SIZE);
      assert.deepEqual(
        Buffer.from(found[i]!.page(number)!),
        Buffer.from(expected),
        `${i}: ${number}`
      );
    }
});

test('a log is valid up to the first byte that changed, and the commit before it counts', () => {
  const whole = readWal(new MemorySource('a', log))!;
  assert.equal(whole.committed, whole.frames.length);
  fc.assert(
    fc.property(fc.nat(log.length - 33), fc.integer({ min: 1, max: 255 }), (at, change) => {
      const damaged = Buffer.from(log);
      damaged[32 + at]! ^= change;
      const read = readWal(new MemorySource('a', damaged))!;
      const frame = Math.floor(at / (SIZE + 24));
      assert.ok(read.frames.slice(0, frame).every(({ valid }) => valid));
      assert.ok(read.frames.slice(frame).every(({ valid }) => !valid));
      const last = whole.frames.findLastIndex(({ commitSize }, i) => i < frame && commitSize > 0);
      assert.equal(read.committed, last + 1);
    })
  );
});

test('a log that is cut gives the last commit that is whole', () => {
  const ends = readWal(new MemorySource('a', log))!.frames.map(({ commitSize, offset }) =>
    commitSize > 0 ? offset + SIZE : 0
  );
  fc.assert(
    fc.property(fc.nat(log.length), (length) => {
      const whole = ends.filter((end) => end > 0 && end <= length).length;
      assert.deepEqual(bodies(base, log.subarray(0, length)), bodies([base, ...states][whole]!));
    })
  );
});

test('what was never committed is kept apart from the present state', () => {
  const open = writeLog(base, [commits[0]!, { bytes: states[3]!, open: true }], { pageSize: SIZE });
  assert.deepEqual(bodies(base, open), bodies(states[0]!));
  const kinds = logStretches(Database.open(filesOf(base, open))).map(({ kind }) => kind);
  assert.deepEqual([...new Set(kinds)], ['commit', 'open']);
});

test('frames that a log begun anew does not reach are no part of the present state', () => {
  const later = statesAfter(states.at(-1)!, ["INSERT INTO t VALUES(500, 'after the restart')"]);
  const short = writeLog(states.at(-1)!, [{ bytes: later[0]! }], {
    pageSize: SIZE,
    sequence: 1,
    salts: [0x1badcaff, 77]
  });
  const mixed = beginAnew(log, short);
  assert.equal(mixed.length, log.length);
  assert.deepEqual(bodies(states.at(-1)!, mixed), bodies(later[0]!));
  const stretches = logStretches(Database.open(filesOf(states.at(-1)!, mixed)));
  assert.equal(stretches[0]!.kind, 'commit');
  assert.equal(stretches.at(-1)!.kind, 'older');
  const frames = stretches.reduce((sum, stretch) => sum + stretch.frames, 0);
  assert.equal(frames, (log.length - 32) / (SIZE + 24));
});

test('what is no log is refused, whatever its bytes', () => {
  for (const bytes of [
    Buffer.alloc(0),
    Buffer.alloc(31),
    Buffer.alloc(4096),
    Buffer.from('SQLite format 3\0'.repeat(9))
  ])
    assert.equal(readWal(new MemorySource('a', bytes)), null);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 3000 }), (bytes) => {
      const read = readWal(new MemorySource('a', Buffer.concat([log.subarray(0, 12), bytes])));
      assert.equal(read?.committed ?? 0, 0);
    })
  );
});
