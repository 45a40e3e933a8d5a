import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { affinityOf, parseCreateTable } from './declaration';
import { indexSchema, tableSchema } from './schema';
import { tokenize } from './tokens';

test('affinity follows the five rules in their order', () => {
  const cases: [string, string][] = [
    ['INT', 'integer'],
    ['FLOATING POINT', 'integer'],
    ['CHARINT', 'integer'],
    ['VARCHAR', 'text'],
    ['CLOB', 'text'],
    ['BLOB', 'blob'],
    ['', 'blob'],
    ['DOUBLE PRECISION', 'real'],
    ['DECIMAL', 'numeric'],
    ['BOOLEAN', 'numeric'],
    ['DATETIME', 'numeric']
  ];
  for (const [type, affinity] of cases) assert.equal(affinityOf(type), affinity, type);
});

test('column facts are read from awkward statements', () => {
  const table = parseCreateTable(
    `CREATE TABLE IF NOT EXISTS main."od""d" (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT /* ) */,
     [two words] VARCHAR(20, 3) DEFAULT 'it''s, )' COLLATE NOCASE, n NUMERIC DEFAULT -1.5 CHECK (n IN (1,2)),
     FOREIGN KEY (n) REFERENCES other(x), CONSTRAINT c UNIQUE (n)) -- end`
  )!;
  assert.equal(table.name, 'od"d');
  assert.deepEqual(
    table.columns.map((c) => [c.name, c.type, c.affinity, c.notNull, c.isRowid, c.fallback]),
    [
      ['id', 'INTEGER', 'integer', true, true, null],
      ['two words', 'VARCHAR', 'text', false, false, "it's, )"],
      ['n', 'NUMERIC', 'numeric', false, false, -1.5]
    ]
  );
  assert.equal(table.autoIncrement, true);
});

test('the row number stands in for a column only where SQLite says so', () => {
  const cases: [string, boolean][] = [
    ['CREATE TABLE t(a INTEGER PRIMARY KEY)', true],
    ['CREATE TABLE t(a INTEGER PRIMARY KEY DESC)', false],
    ['CREATE TABLE t(a INT PRIMARY KEY)', false],
    ['CREATE TABLE t(a INTEGER, PRIMARY KEY(a DESC))', true],
    ['CREATE TABLE t(a INTEGER, b, PRIMARY KEY(a, b))', false],
    ['CREATE TABLE t(a INTEGER PRIMARY KEY) WITHOUT ROWID', false]
  ];
  for (const [sql, expected] of cases) {
    assert.equal(parseCreateTable(sql)!.columns[0]!.isRowid, expected, sql);
  }
});

test('records without row numbers begin with the key', () => {
  const table = tableSchema({
    type: 'table',
    name: 't',
    table: 't',
    root: 2,
    sql: 'CREATE TABLE t(a, b, c AS (a) VIRTUAL, d, PRIMARY KEY(d, a)) WITHOUT ROWID'
  })!;
  assert.deepEqual(table.order, [3, 0, 1]);
});

test('columns of declared and automatic indexes', () => {
  const row = { type: 'table', name: 't', table: 't', root: 2 };
  const sql =
    'CREATE TABLE t(id INTEGER PRIMARY KEY, guid TEXT UNIQUE NOT NULL, a, b, UNIQUE (a, b))';
  const table = tableSchema({ ...row, sql })!;
  const index = (name: string, text: string | null) =>
    indexSchema({ type: 'index', name, table: 't', root: 3, sql: text }, [table])?.columns;
  assert.deepEqual(index('sqlite_autoindex_t_1', null), ['guid']);
  assert.deepEqual(index('sqlite_autoindex_t_2', null), ['a', 'b']);
  assert.deepEqual(index('i', 'CREATE INDEX i ON t(b DESC, lower(a), "a") WHERE a > 1'), [
    'b',
    null,
    'a'
  ]);
});

test('no text makes the reader of statements fail or hang', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (text) => {
      tokenize(text);
      parseCreateTable(text);
      parseCreateTable(`CREATE TABLE t(${text})`);
    })
  );
});
