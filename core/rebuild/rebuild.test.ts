import assert from 'node:assert/strict';
import { test } from 'node:test';
import initSqlJs from 'sql.js';
import { askSqlite, filesOf, makeDatabase, snapshot } from '../tests/databases';
import { MARK, rebuildStore } from '.';

const SQL = await initSqlJs();
const FACTS = { made: '2026-11-27T12:00:00.000Z', version: '0', source: 'chat.db', sha256: 'ab' };

const SCHEMA = `CREATE TABLE person(id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
  CREATE TABLE message(id INTEGER PRIMARY KEY, person INTEGER, body TEXT, at INTEGER);
  CREATE INDEX by_time ON message(at);
  CREATE TABLE counts(n INTEGER);
  INSERT INTO counts VALUES(0);
  CREATE TRIGGER counting AFTER INSERT ON message BEGIN UPDATE counts SET n = n + 1; END;`;

const all = (): boolean => true;

test('deleted rows stand in the copy again, sound, marked, and triggers did not fire', () => {
  const bytes = makeDatabase((db) => {
    db.run(SCHEMA);
    db.run("INSERT INTO person VALUES(1,'Mira'),(2,'Jon')");
    for (let i = 1; i <= 60; i++)
      db.run('INSERT INTO message VALUES(?,?,?,?)', [
        i,
        1 + (i % 2),
        `the tide at quay ${i}`,
        1_700_000_000 + i * 60
      ]);
    db.run('DELETE FROM message WHERE id % 5 = 0');
  });
  const { bytes: copy, put, refused } = rebuildStore(filesOf(bytes), SQL, all, FACTS);
  assert.equal(put, 12);
  assert.deepEqual(refused, []);
  assert.deepEqual(askSqlite(copy, 'SELECT count(*), count(DISTINCT body) FROM message'), [
    [60, 60]
  ]);
  assert.deepEqual(
    askSqlite(copy, 'SELECT n FROM counts'),
    askSqlite(bytes, 'SELECT n FROM counts')
  );
  assert.deepEqual(askSqlite(copy, "SELECT count(*) FROM sqlite_schema WHERE type='trigger'"), [
    [1]
  ]);
  assert.deepEqual(askSqlite(copy, 'PRAGMA integrity_check'), [['ok']]);
  assert.equal(askSqlite(copy, `SELECT * FROM ${MARK} WHERE tbl = 'message'`).length, 12);
  assert.deepEqual(askSqlite(copy, 'SELECT body FROM message WHERE id = 25'), [
    ['the tide at quay 25']
  ]);
});

test('only what is asked for is put back', () => {
  const bytes = makeDatabase((db) => {
    db.run(SCHEMA);
    for (let i = 1; i <= 40; i++)
      db.run('INSERT INTO message VALUES(?,1,?,?)', [i, `rope and lamp ${i}`, 1_700_000_000 + i]);
    db.run('DELETE FROM message WHERE id IN (7, 8, 21)');
  });
  const places: number[] = [];
  rebuildStore(filesOf(bytes), SQL, (_, offset) => places.push(offset) > 0 && false, FACTS);
  const [first] = [...new Set(places)];
  const { put } = rebuildStore(filesOf(bytes), SQL, (_, offset) => offset === first, FACTS);
  assert.equal(put, 1);
});

test('what SQLite refuses is told with its words, and the rest is put back', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE slip(id INTEGER PRIMARY KEY, code TEXT UNIQUE, note TEXT, at INTEGER)');
    for (let i = 10; i < 40; i++)
      db.run('INSERT INTO slip VALUES(?,?,?,?)', [
        i,
        `code-${i}`,
        `note of slip ${i}`,
        1_700_000_000 + i
      ]);
    db.run('DELETE FROM slip WHERE id IN (12, 20)');
    // The code of one of them was given again.
    db.run("UPDATE slip SET code = 'code-12' WHERE id = 13");
  });
  const { put, refused, bytes: copy } = rebuildStore(filesOf(bytes), SQL, all, FACTS);
  assert.equal(put, 1, JSON.stringify(refused));
  assert.equal(refused.length, 1);
  assert.match(refused[0]!.reason, /UNIQUE/);
  assert.deepEqual(askSqlite(copy, "SELECT note FROM slip WHERE code = 'code-20'"), [
    ['note of slip 20']
  ]);
  assert.deepEqual(askSqlite(copy, 'PRAGMA integrity_check'), [['ok']]);
});

test('the copy is the state of the last commit, also where that lies in a log', () => {
  const { main, wal } = snapshot(
    [
      'PRAGMA journal_mode=WAL; CREATE TABLE message(id INTEGER PRIMARY KEY, body TEXT, at INTEGER);',
      ...Array.from(
        { length: 20 },
        (_, i) =>
          `INSERT INTO message VALUES(${i + 1}, 'boat and shed ${i + 1}', ${1_700_000_000 + i});`
      ),
      'DELETE FROM message WHERE id = 9;',
      'SNAPSHOT'
    ].join('\n'),
    'SELECT count(*) FROM message'
  );
  const { bytes: copy } = rebuildStore(filesOf(main, wal), SQL, all, FACTS);
  assert.deepEqual(askSqlite(copy, 'SELECT count(*) FROM message'), [[20]]);
  assert.deepEqual(askSqlite(copy, 'PRAGMA integrity_check'), [['ok']]);
});
