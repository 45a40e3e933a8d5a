import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Database as SqlJs } from 'sql.js';
import type { TextEncoding } from '../../host';
import { askSqlite, filesOf, makeDatabase, snapshot } from '../../tests/databases';
import { Database, type SqlValue, type TableSchema } from '..';

/** A value with its type, as SQLite's own `typeof` and `hex` or `quote` would tell it. */
function told(value: SqlValue, real: boolean): string {
  if (value === null) return 'null';
  if (value instanceof Uint8Array)
    return `blob ${Buffer.from(value).toString('hex').toUpperCase()}`;
  if (typeof value === 'string') return `text ${value}`;
  if (typeof value === 'bigint') return `integer ${value}`;
  return real || !Number.isSafeInteger(value) ? `real ${value}` : `integer ${value}`;
}

function quoteColumn(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}

/** What SQLite says of every row: type and exact content of each column, sorted. */
function sqliteRows(bytes: Uint8Array, table: TableSchema): string[] {
  const columns = table.columns
    .filter((column) => !column.virtual)
    .map(({ name }) => {
      const c = quoteColumn(name);
      return `CASE typeof(${c}) WHEN 'null' THEN 'null' WHEN 'blob' THEN 'blob ' || hex(${c}) WHEN 'text' THEN 'text ' || hex(CAST(${c} AS BLOB)) ELSE typeof(${c}) || ' ' || CAST(${c} AS TEXT) END`;
    });
  return askSqlite(bytes, `SELECT ${columns.join(', ')} FROM ${quoteColumn(table.name)}`)
    .map((row) => row.map((cell) => normalNumber(String(cell))).join(' | '))
    .sort();
}

/** `real 1.0` and `real 1` are the same number; so are the two spellings of large exponents. */
function normalNumber(cell: string): string {
  return cell.startsWith('real ') ? `real ${Number(cell.slice(5))}` : cell;
}

function ourRows(database: Database, table: TableSchema): string[] {
  const { encoding } = database.header;
  return [...database.rows(table)]
    .map((row) =>
      row.values
        .flatMap((value, i) => {
          const column = table.columns[i]!;
          if (column.virtual) return [];
          const cell = told(value, column.affinity === 'real');
          if (!cell.startsWith('text ')) return [cell];
          return [`text ${textHex(cell.slice(5), encoding)}`];
        })
        .join(' | ')
    )
    .sort();
}

function textHex(text: string, encoding: TextEncoding): string {
  const bytes = Buffer.from(text, encoding === 'utf-8' ? 'utf8' : 'utf16le');
  return (encoding === 'utf-16be' ? bytes.swap16() : bytes).toString('hex').toUpperCase();
}

const many = (db: SqlJs, n: number, sql: (i: number) => string): void => {
  db.run('BEGIN');
  for (let i = 1; i <= n; i++) db.run(sql(i));
  db.run('COMMIT');
};

const CASES: { name: string; pragmas?: string; fill: (db: SqlJs) => void }[] = [
  {
    name: 'every kind of value',
    fill: (db) =>
      db.run(`CREATE TABLE v(id INTEGER PRIMARY KEY, a, b TEXT, c REAL, d NUMERIC, e BLOB);
        INSERT INTO v VALUES(1, NULL, 'text', 1, '12', x'00ff');
        INSERT INTO v VALUES(2, 0, '', 0.5, 'x', x'');
        INSERT INTO v VALUES(-5, 1, 'ελληνικά', -3, 1e300, 7);
        INSERT INTO v VALUES(9223372036854775807, -9223372036854775808, 12, 9007199254740993, 3.0, 'y');
        INSERT INTO v VALUES(3, 127, 128, 32767, 8388607, 2147483647);
        INSERT INTO v VALUES(4, -129, 140737488355327, 140737488355328, -1, 0.1);`)
  },
  ...[512, 1024, 4096, 65536].map((size) => ({
    name: `pages of ${size} bytes, payloads that spill`,
    pragmas: `PRAGMA page_size=${size};`,
    fill: (db: SqlJs): void => {
      db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, raw BLOB)');
      many(
        db,
        300,
        (i) =>
          `INSERT INTO t VALUES(${i * 3}, printf('%.*c', ${(i * i * 7) % 9000}, 'x'), randomblob(${(i * 97) % 3000}))`
      );
    }
  })),
  ...(['utf-16le', 'utf-16be'] as const).map((name) => ({
    name: `text as ${name}`,
    pragmas: `PRAGMA encoding='${name}';`,
    fill: (db: SqlJs): void => {
      db.run('CREATE TABLE "a table"("a column" TEXT, n INT)');
      many(db, 200, (i) => `INSERT INTO "a table" VALUES('№ ${i} 🛶 ${'é'.repeat(i)}', ${i})`);
    }
  })),
  {
    name: 'tables without row numbers, keys out of order',
    pragmas: 'PRAGMA page_size=512;',
    fill: (db) => {
      db.run('CREATE TABLE w(a TEXT, b INT, c TEXT, PRIMARY KEY(c, b)) WITHOUT ROWID');
      many(db, 500, (i) => `INSERT INTO w VALUES('a${i}', ${i % 7}, '${'k'.repeat(i % 200)}${i}')`);
    }
  },
  {
    name: 'auto-vacuum with freed pages',
    pragmas: 'PRAGMA auto_vacuum=FULL;',
    fill: (db) => {
      db.run('CREATE TABLE t(x TEXT)');
      many(db, 900, (i) => `INSERT INTO t VALUES('${'row '.repeat(20)}${i}')`);
      db.run('DELETE FROM t WHERE rowid % 3 = 0');
    }
  },
  {
    name: 'columns added later, with defaults',
    fill: (db) =>
      db.run(`CREATE TABLE t(a INTEGER); INSERT INTO t VALUES(1),(2);
        ALTER TABLE t ADD COLUMN b TEXT DEFAULT 'it''s'; ALTER TABLE t ADD COLUMN c REAL DEFAULT -2.5;
        ALTER TABLE t ADD COLUMN d DEFAULT 7; ALTER TABLE t ADD COLUMN e BLOB DEFAULT x'0102'; INSERT INTO t VALUES(3,'x',1,2,NULL);`)
  },
  {
    name: 'odd declarations',
    fill: (db) =>
      db.run(`CREATE TABLE [od d]( "q""uoted" INTEGER PRIMARY KEY AUTOINCREMENT, \`tick\` VARCHAR(10) NOT NULL DEFAULT ('a,b)'), -- comment, )
        [br] DECIMAL(10,2) CHECK([br] > 0), plain, CONSTRAINT u UNIQUE(plain, [br])) ;
        INSERT INTO [od d](\`tick\`, [br], plain) VALUES('1', '2.50', x'01'), ('z', 3, 'p');
        CREATE TABLE desc_key(id INTEGER PRIMARY KEY DESC, v); INSERT INTO desc_key VALUES(5, 'five'), (NULL, 'none');
        CREATE TABLE table_key(v, id INTEGER, PRIMARY KEY(id DESC)); INSERT INTO table_key VALUES('a', 41), ('b', 42);
        CREATE TABLE gen(a INT, b INT GENERATED ALWAYS AS (a * 2) VIRTUAL, c INT AS (a + 1) STORED, d TEXT); INSERT INTO gen(a, d) VALUES(4, 'four');
        CREATE TABLE strict_one(a INT, b TEXT, c ANY) STRICT; INSERT INTO strict_one VALUES(1, 'b', 2.5);`)
  }
];

for (const { name, pragmas, fill } of CASES) {
  test(`live rows equal SQLite's: ${name}`, () => {
    const bytes = makeDatabase(fill, pragmas);
    const database = Database.open(filesOf(bytes));
    assert.ok(database.tables.length > 0);
    for (const table of database.tables) {
      const expected = sqliteRows(bytes, table);
      assert.deepEqual(ourRows(database, table), expected, table.name);
    }
    assert.deepEqual(database.damage, []);
  });
}

const FILL = `CREATE TABLE t(id INTEGER PRIMARY KEY, v TEXT);
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i+1 FROM n WHERE i < 400) INSERT INTO t SELECT i, printf('row %d %.*c', i, i % 90, 'z') FROM n;`;

function ids(snap: ReturnType<typeof snapshot>): unknown[] {
  const database = Database.open(filesOf(snap.main, snap.wal, snap.journal));
  return [...database.rows(database.table('t')!)].map(({ values }) => ({
    id: values[0],
    v: values[1]
  }));
}

test("live rows come through the write-ahead log's last commit", () => {
  const snap = snapshot(
    `PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${FILL}
DELETE FROM t WHERE id % 5 = 0; UPDATE t SET v = 'changed' WHERE id = 7;
BEGIN; DELETE FROM t WHERE id > 300; INSERT INTO t VALUES(1000, 'uncommitted');
SNAPSHOT
ROLLBACK;`,
    'SELECT id, v FROM t ORDER BY id'
  );
  assert.ok(snap.wal && snap.wal.length > 0);
  assert.equal(snap.rows.length, 320);
  assert.deepEqual(ids(snap), snap.rows);
});

test('frames of a log that was begun anew do not count', () => {
  const snap = snapshot(
    `PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${FILL}
PRAGMA wal_checkpoint(RESTART); INSERT INTO t VALUES(2000, 'after the restart');
SNAPSHOT
`,
    'SELECT id, v FROM t ORDER BY id'
  );
  assert.deepEqual(ids(snap), snap.rows);
});

test('a hot journal is rolled back before anything is called live', () => {
  const snap = snapshot(
    `PRAGMA journal_mode=DELETE; PRAGMA page_size=1024; PRAGMA cache_size=2; PRAGMA cache_spill=1; ${FILL}
BEGIN IMMEDIATE; DELETE FROM t WHERE id > 50; UPDATE t SET v = 'gone';
WITH RECURSIVE n(i) AS (SELECT 5000 UNION ALL SELECT i+1 FROM n WHERE i < 6000) INSERT INTO t SELECT i, 'never committed' FROM n;
SNAPSHOT
ROLLBACK;`,
    'SELECT id, v FROM t ORDER BY id'
  );
  assert.ok(snap.journal && snap.journal.length > 512);
  assert.equal(snap.rows.length, 400);
  assert.deepEqual(ids(snap), snap.rows);
});
