import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemorySource } from '../../host';
import { snapshot } from '../../tests/databases';
import { Database } from '../read/database';
import { lifeOf, statesOf, type RowEvent } from './history';

const START = `CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT);
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 300) INSERT INTO t SELECT i, 'wording ' || i FROM n;`;

function opened(script: string): Database {
  const { main, wal, journal } = snapshot(script, 'SELECT count(*) FROM t');
  return Database.open({
    main: new MemorySource('a.db', main),
    ...(wal ? { wal: new MemorySource('a.db-wal', wal) } : {}),
    ...(journal ? { journal: new MemorySource('a.db-journal', journal) } : {})
  });
}

function told(database: Database, rowid: number): string[] {
  const states = statesOf(database);
  const events = lifeOf(states, database.table('t')!, rowid, database.pages.usable);
  return events.map(({ what, state }: RowEvent) => `${what} ${state.kind} ${state.number}`);
}

const LOGGED = `PRAGMA page_size=512; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${START} PRAGMA wal_checkpoint(TRUNCATE);
INSERT INTO t VALUES(301, 'late');
UPDATE t SET body = 'another wording' WHERE id = 20;
DELETE FROM t WHERE id = 20 OR id = 150;
INSERT INTO t VALUES(302, 'later');
DELETE FROM t WHERE id = 301;
`;

test('a row is followed through the commits of the log', () => {
  const database = opened(`${LOGGED}SNAPSHOT\n`);
  assert.deepEqual(
    statesOf(database).map(({ kind, number }) => `${kind} ${number}`),
    ['file 1', 'commit 1', 'commit 2', 'commit 3', 'commit 4', 'commit 5']
  );
  assert.deepEqual(told(database, 20), ['there file 1', 'changed commit 2', 'deleted commit 3']);
  assert.deepEqual(told(database, 150), ['there file 1', 'deleted commit 3']);
  assert.deepEqual(told(database, 301), ['inserted commit 1', 'deleted commit 5']);
  assert.deepEqual(told(database, 299), ['there file 1']);
  assert.deepEqual(told(database, 999), []);
});

test('what was there before and after bounds when it happened', () => {
  const database = opened(`${LOGGED}SNAPSHOT\n`);
  const events = lifeOf(statesOf(database), database.table('t')!, 301, database.pages.usable);
  assert.deepEqual(
    events.map(({ newestBefore, newestAfter }) => [newestBefore, newestAfter]),
    [
      [300, 301],
      [302, 302]
    ]
  );
});

test('frames that a restart left behind come before the file', () => {
  const database = opened(`PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${START}
UPDATE t SET body = 'second' WHERE id = 7;
DELETE FROM t WHERE id = 9;
PRAGMA wal_checkpoint(RESTART);
DELETE FROM t WHERE id = 7;
SNAPSHOT
`);
  const kinds = statesOf(database).map(({ kind }) => kind);
  assert.ok(kinds.indexOf('older') >= 0 && kinds.indexOf('older') < kinds.indexOf('file'));
  assert.equal(told(database, 7).at(-1), 'deleted commit 1');
});

test('a kept journal holds the state before', () => {
  const database = opened(`PRAGMA journal_mode=PERSIST; ${START}
DELETE FROM t WHERE id = 12;
SNAPSHOT
`);
  assert.deepEqual(told(database, 12), ['there before 1', 'deleted file 1']);
});
