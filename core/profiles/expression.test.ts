import assert from 'node:assert/strict';
import { test } from 'node:test';
import { Database, recoverTables, type SqlValue } from '../sqlite';
import { filesOf, finish, makeDatabase } from '../tests/databases';
import { evaluate, holds, lookUpRows, type Scope } from './expression';
import type { Expression, Lookup, RowTest } from './profile';
import { TableSet, type StoreRow } from './tables';

const bytes = makeDatabase((db) => {
  db.run(`CREATE TABLE message(id INTEGER PRIMARY KEY, body TEXT, kind INTEGER, who INTEGER, chat INTEGER, extra TEXT);
CREATE TABLE person(id INTEGER PRIMARY KEY, address TEXT, name TEXT);
CREATE TABLE member(chat INTEGER, person INTEGER, role TEXT);
INSERT INTO person VALUES(1,'+447700900101','Runa'),(2,'15550142@s.host','Odd'),(3,NULL,'Nobody');
INSERT INTO member VALUES(7,1,'reads'),(7,2,'writes'),(7,3,'left'),(8,2,'writes');
INSERT INTO message VALUES(1,'the tide is out',0,1,7,'alpha beta  gamma'),(2,'<b>late</b> &amp; wet',1,2,7,NULL),(3,'',5,9,8,'id=44;x'),(4,NULL,NULL,NULL,NULL,NULL);`);
});

function opened(): { tables: TableSet; scope: Scope } {
  const database = Database.open(filesOf(bytes));
  const tables = new TableSet(
    finish(recoverTables(database, { wanted: () => true, freed: false }))
  );
  return { tables, scope: { tables, key: 'id' } };
}

const { tables, scope } = opened();
const rows = tables.get('message')!.rows;

function given(expression: Expression, row: number): SqlValue[] {
  return evaluate(expression, rows[row - 1]!, scope);
}

const PERSON: Lookup = { table: 'person', match: 'id', from: { column: 'who' } };
const MEMBERS: Lookup = { table: 'member', match: 'chat', from: { column: 'chat' } };

const CASES: [says: string, expression: Expression, row: number, values: SqlValue[]][] = [
  ['a column', { column: 'body' }, 1, ['the tide is out']],
  ['a column whatever its case', { column: 'BODY' }, 1, ['the tide is out']],
  ['an absent value', { column: 'body' }, 4, []],
  ['a column that is not there', { column: 'nothing' }, 1, []],
  ['the row number by its name', { column: 'rowid' }, 3, [3]],
  ['a constant', { constant: 'in' }, 4, ['in']],
  ['a row of another table', { lookup: PERSON, take: { column: 'name' } }, 1, ['Runa']],
  ['a row that is not there', { lookup: PERSON, take: { column: 'name' } }, 3, []],
  [
    'a table that is not there',
    { lookup: { ...PERSON, table: 'x' }, take: { column: 'name' } },
    1,
    []
  ],
  [
    'rows of rows',
    {
      lookup: MEMBERS,
      take: {
        lookup: { table: 'person', match: 'id', from: { column: 'person' } },
        take: { column: 'name' }
      }
    },
    1,
    ['Runa', 'Odd', 'Nobody']
  ],
  [
    'rows of one kind',
    {
      lookup: { ...MEMBERS, where: { column: 'role', is: ['writes'] } },
      take: { column: 'person' }
    },
    1,
    [2]
  ],
  [
    'rows of all kinds but one',
    {
      lookup: { ...MEMBERS, where: { column: 'role', not: ['left'] } },
      take: { column: 'person' }
    },
    1,
    [1, 2]
  ],
  [
    'the first that gives anything',
    { first: [{ column: 'extra' }, { column: 'body' }] },
    2,
    ['<b>late</b> &amp; wet']
  ],
  [
    'the first that is not empty',
    { first: [{ column: 'body' }, { constant: 'none' }] },
    3,
    ['none']
  ],
  [
    'each of several',
    { each: [{ column: 'kind' }, { column: 'extra' }, { column: 'who' }] },
    2,
    [1, 2]
  ],
  [
    'values joined',
    { joined: { each: [{ column: 'kind' }, { column: 'who' }] }, by: '/' },
    2,
    ['1/2']
  ],
  ['nothing joined', { joined: { column: 'body' }, by: '/' }, 4, []],
  ['words', { words: { column: 'extra' } }, 1, ['alpha', 'beta', 'gamma']],
  ['markup as it is read', { plainText: { column: 'body' } }, 2, ['late & wet']],
  ['a mapped value', { map: { column: 'kind' }, values: { '1': 'out' } }, 2, ['out']],
  ['a value that is not mapped', { map: { column: 'kind' }, values: { '1': 'out' } }, 3, []],
  ['a part of a value', { match: { column: 'extra' }, pattern: 'id=(\\d+)' }, 3, ['44']],
  ['no such part', { match: { column: 'extra' }, pattern: 'id=(\\d+)' }, 1, []],
  ['a value without a part', { without: { column: 'extra' }, pattern: ';.*$' }, 3, ['id=44']],
  ['bytes are asked for, text is there', { typedStream: { column: 'body' } }, 1, []]
];

for (const [says, expression, row, values] of CASES)
  test(`an expression gives: ${says}`, () => assert.deepEqual(given(expression, row), values));

test('account names with a number in front are telephone numbers, groups and names are not', () => {
  const cases: [string, string][] = [
    ['15550142@s.host', '+15550142'],
    ['15550142:3@s.host', '+15550142'],
    ['15550142.1@s.host', '+15550142'],
    ['15550142-1600000000@g.host', '15550142-1600000000@g.host'],
    ['15550142@g.us', '15550142@g.us'],
    ['15550142@broadcast', '15550142@broadcast'],
    ['123@s.host', '123@s.host'],
    ['runa@quay.example', 'runa@quay.example']
  ];
  for (const [stored, shown] of cases)
    assert.deepEqual(evaluate({ jid: { constant: stored } }, rows[0]!, scope), [shown], stored);
});

test('tests of a row: by value, by what it is not, by whether anything is there', () => {
  const kind = { column: 'kind' };
  const cases: [RowTest, boolean[]][] = [
    [{ value: kind, is: ['0', '1'] }, [true, true, false, false]],
    [{ value: kind, not: ['5'] }, [true, true, false, true]],
    [{ value: kind, is: [''] }, [false, false, false, true]],
    [{ value: kind, present: true }, [false, true, true, false]],
    [{ value: { column: 'body' }, present: false }, [false, false, true, true]]
  ];
  for (const [asked, expected] of cases)
    assert.deepEqual(
      rows.map((row) => holds(asked, row, scope)),
      expected,
      JSON.stringify(asked)
    );
});

test('what holds only on a condition is given on that condition', () => {
  const expression: Expression = {
    when: { value: { column: 'kind' }, is: ['1'] },
    then: { column: 'who' }
  };
  assert.deepEqual([given(expression, 1), given(expression, 2)], [[], [2]]);
});

/** The same rows, some of which were found in freed space. */
function withFreed(row: StoreRow, isFreed: boolean): StoreRow {
  return isFreed ? { ...row, live: null, freed: {} as StoreRow['freed'] } : row;
}

test('a live message takes live rows made for it, a deleted one those deleted with it', () => {
  const link: Lookup = { table: 'link', match: 'message', from: { column: 'id' } };
  const asking = rows[0]!;
  const own = [withFreed(rows[1]!, false), withFreed(rows[2]!, true)];
  const table = { find: () => own } as unknown as ReturnType<TableSet['get']>;
  const set = { get: () => table } as unknown as TableSet;
  const of = (row: StoreRow, key: string): boolean[] =>
    lookUpRows(link, row, { tables: set, key }).map(({ live }) => live !== null);
  assert.deepEqual(of(withFreed(asking, false), 'id'), [true]);
  assert.deepEqual(of(withFreed(asking, true), 'id'), [false]);
  // Rows that many refer to are taken live, whoever asks.
  assert.deepEqual(of(withFreed(asking, true), 'other'), [true]);
});
