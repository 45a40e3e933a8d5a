import assert from 'node:assert/strict';
import { test } from 'node:test';
import { tableSchema, type TableSchema } from '../sqlite';
import { HANDLE_CHAT_SCHEMA } from '../tests/handle-chat';
import { TELEPHONY_SCHEMA } from '../tests/telephony';
import { fittingProfiles, readsHashedNames, schemaFingerprint, tablesOf } from './fit';
import type { ReadingProfile } from './profile';
import { matches, resolveProfile } from './resolve';

function tablesIn(sql: string): TableSchema[] {
  const statements = sql.split(';').filter((statement) => /create table/i.test(statement));
  return statements.flatMap((statement) => {
    const name = /create table (?:if not exists )?["'`[]?([\w$]+)/i.exec(statement)![1]!;
    return tableSchema({ type: 'table', name, table: name, root: 2, sql: statement.trim() }) ?? [];
  });
}

function profile(told: Partial<ReadingProfile>): ReadingProfile {
  return { id: 'own', title: 'own', needs: {}, knows: {}, messages: [], ...told };
}

const MAPPING = {
  table: 'note',
  key: 'rowid',
  body: { column: 'text' },
  sentAt: { value: { column: 'at' }, clock: 'seconds-1970' as const },
  direction: {
    value: { column: 'own' },
    values: { '1': 'outgoing' as const },
    otherwise: 'incoming' as const
  },
  sender: { column: 'peer' },
  thread: { key: { column: 'peer' }, participants: { column: 'peer' } }
};

test('a built-in profile fits its own tables best, and no other', () => {
  const telephony = fittingProfiles(tablesIn(TELEPHONY_SCHEMA));
  assert.equal(telephony[0]?.profile.id, 'telephony-provider');
  assert.ok(telephony[0]!.fit >= 60 && telephony[0]!.fit <= 100);
  const chats = fittingProfiles(tablesIn(HANDLE_CHAT_SCHEMA));
  assert.equal(chats[0]?.profile.id, 'handle-chat');
  assert.deepEqual(fittingProfiles(tablesIn('CREATE TABLE song(id INTEGER, title TEXT)')), []);
});

test('what a profile needs must be there; what it knows raises the fit', () => {
  const needs = { note: ['text', 'at'] };
  const knows = { note: ['own', 'peer'], folder: ['name'] };
  const own = profile({ needs, knows, messages: [MAPPING] });
  const fits = (sql: string): number => fittingProfiles(tablesIn(sql), [own])[0]?.fit ?? 0;
  assert.equal(fits('CREATE TABLE note(text TEXT)'), 0);
  assert.equal(fits('CREATE TABLE note(text TEXT, at INTEGER)'), 60);
  assert.equal(fits('CREATE TABLE Note(TEXT TEXT, At INTEGER, own INTEGER)'), 73);
  assert.equal(fits('CREATE TABLE note(text TEXT, at INTEGER, own INTEGER, peer TEXT)'), 87);
  assert.equal(
    fits(
      'CREATE TABLE note(text TEXT, at INTEGER, own INTEGER, peer TEXT); CREATE TABLE folder(name TEXT)'
    ),
    100
  );
});

test('the row number can be needed whether or not a column stands for it', () => {
  const own = profile({ needs: { note: ['ROWID', 'text'] }, messages: [MAPPING] });
  assert.equal(fittingProfiles(tablesIn('CREATE TABLE note(text TEXT)'), [own]).length, 1);
});

test('a profile saved for this very make of database is taken before all others', () => {
  const tables = tablesIn(TELEPHONY_SCHEMA);
  const own = profile({
    needs: { nothing: ['like this'] },
    messages: [{ ...MAPPING, table: 'sms' }],
    fingerprint: schemaFingerprint(tables)
  });
  const [first, ...others] = fittingProfiles(tables, [own]);
  assert.deepEqual([first?.profile.id, first?.fit], ['own', 100]);
  // One table is read by one profile only.
  assert.ok(others.every(({ profile: { id } }) => id !== 'telephony-provider'));
});

test('a fingerprint is that of names alone, in any order and case', () => {
  const one = tablesIn('CREATE TABLE a(x, y); CREATE TABLE b(z)');
  const other = tablesIn('CREATE TABLE B(Z TEXT NOT NULL); CREATE TABLE A(X INTEGER, y BLOB)');
  const third = tablesIn('CREATE TABLE a(y, x); CREATE TABLE b(z)');
  assert.equal(schemaFingerprint(one), schemaFingerprint(other));
  assert.notEqual(schemaFingerprint(one), schemaFingerprint(third));
});

test('a star stands for letters and digits', () => {
  const cases: [string, string, boolean][] = [
    ['chat_*', 'Chat_0a9f', true],
    ['chat_*', 'chat_', true],
    ['chat_*', 'chat_a_b', false],
    ['z*message', 'Z_1MESSAGE', false],
    ['z*message', 'ZWAMESSAGE', true],
    ['a.b*', 'axb1', false],
    ['note', 'NOTE', true],
    ['note', 'notes', false]
  ];
  for (const [pattern, name, expected] of cases)
    assert.equal(matches(pattern, name), expected, `${pattern} ${name}`);
});

test('a starred name becomes that of the table itself, the shortest', () => {
  const own = profile({
    needs: { 'z*note': ['text'] },
    messages: [{ ...MAPPING, table: 'z*note' }]
  });
  const tables = tablesIn('CREATE TABLE zownernote(text); CREATE TABLE zanote(text)');
  assert.equal(resolveProfile(own, tables).messages[0]!.table, 'zanote');
  // Where none fits, the pattern stays, and finds nothing.
  assert.equal(resolveProfile(own, []).messages[0]!.table, 'z*note');
});

test('where every table is a conversation each gets a mapping of its own', () => {
  const own = profile({ messages: [{ ...MAPPING, table: 'talk_*', many: true }] });
  const tables = tablesIn(
    'CREATE TABLE talk_a1(text); CREATE TABLE talk_b2(text); CREATE TABLE x(y)'
  );
  assert.deepEqual(
    resolveProfile(own, tables).messages.map(({ table, many }) => [table, many]),
    [
      ['talk_a1', false],
      ['talk_b2', false]
    ]
  );
});

test('all tables that a profile reads are known, however deep they stand', () => {
  const own = profile({
    needs: { Note: ['text'] },
    knows: { Folder: ['name'] },
    messages: [
      {
        ...MAPPING,
        sender: {
          lookup: { table: 'Person', match: 'id', from: { column: 'who' } },
          take: { column: 'address' }
        }
      }
    ]
  });
  assert.deepEqual([...tablesOf(own)].sort(), ['folder', 'note', 'person']);
  assert.equal(readsHashedNames(own), false);
});
