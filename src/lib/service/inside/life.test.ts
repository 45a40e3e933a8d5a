import assert from 'node:assert/strict';
import { test } from 'node:test';
import { ZonedTime } from '../../../../core/shown';
import { Database } from '../../../../core/sqlite';
import { filesOf, makeDatabase, snapshot } from '../../../../core/tests/databases';
import { FileHistory, type MomentOfRow } from './life';

const TIME = new ZonedTime('Etc/UTC');
const AT = Date.UTC(2026, 2, 12, 8);
/** Row n was sent n minutes after eight. */
const momentOf: MomentOfRow = (rowid) => (rowid > 302 ? null : AT + rowid * 60_000);

const START = `CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT); CREATE TABLE k(a TEXT PRIMARY KEY) WITHOUT ROWID;
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 300) INSERT INTO t SELECT i, 'wording ' || i FROM n;`;

function opened(script: string): Database {
  const { main, wal, journal } = snapshot(script, 'SELECT count(*) FROM t');
  return Database.open(filesOf(main, wal, journal));
}

const logged =
  opened(`PRAGMA page_size=512; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${START} PRAGMA wal_checkpoint(TRUNCATE);
INSERT INTO t VALUES(301, 'late');
UPDATE t SET body = 'another wording' WHERE id = 20;
DELETE FROM t WHERE id = 20;
INSERT INTO t VALUES(302, 'later');
SNAPSHOT
`);

test('a row’s life is told in words, bounded by the rows around it', () => {
  const history = new FileHistory(logged);
  const told = (rowid: number): string[] =>
    history.of('t', rowid, momentOf, TIME).map(({ text }) => text);
  const [first, ...rest] = told(20);
  assert.equal(first, 'in the file itself');
  assert.match(rest[0]!, /^changed by commit 2 of 4 in the log, between .*12 .*UTC\+0 and /);
  assert.match(rest[1]!, /^deleted by commit 3 of 4 in the log, between /);
  assert.match(told(301)[0]!, /^inserted by commit 1 of 4 in the log, between .* and /);
  // No row came after the newest one, so that only the earlier bound is known.
  assert.match(told(302)[0]!, /^inserted by commit 4 of 4 in the log, not before /);
  assert.deepEqual(told(999), []);
});

test('without moments nothing is bounded', () => {
  const [, changed] = new FileHistory(logged).of('t', 20, () => null, TIME);
  assert.equal(changed!.text, 'changed by commit 2 of 4 in the log');
  assert.equal(changed!.what, 'changed');
});

test('tables without row numbers, unknown tables and files of one state have no life to tell', () => {
  const history = new FileHistory(logged);
  assert.deepEqual(history.of('k', 1, momentOf, TIME), []);
  assert.deepEqual(history.of('nothing', 1, momentOf, TIME), []);
  const still = makeDatabase((db) => db.run('CREATE TABLE t(a); INSERT INTO t VALUES(1)'));
  const alone = new FileHistory(Database.open(filesOf(still)));
  assert.deepEqual(alone.of('t', 1, momentOf, TIME), []);
});

test('a kept journal tells what was there before', () => {
  const kept = opened(`PRAGMA journal_mode=PERSIST; ${START}
DELETE FROM t WHERE id = 12;
SNAPSHOT
`);
  const [before, after] = new FileHistory(kept).of('t', 12, momentOf, TIME);
  assert.equal(before!.text, 'in the state before the journal');
  assert.match(after!.text, /^deleted by the file itself/);
});
