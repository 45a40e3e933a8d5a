import assert from 'node:assert/strict';
import { test } from 'node:test';
import { writtenMilliseconds } from './written-time';
import { textOfMarkup } from './markup';
import { readingProfileSchema } from './profile-schema';
import { builtInProfiles } from './builtin';
import { matches, resolveProfile } from './resolve';
import { tableSchema, type TableSchema } from '../sqlite';

test('every built-in profile passes the check that imported ones pass, unchanged', () => {
  for (const profile of builtInProfiles) {
    const copy = JSON.parse(JSON.stringify(profile)) as unknown;
    assert.deepEqual(readingProfileSchema.parse(copy), copy, profile.id);
  }
});

test('profiles that are none are refused, with the place', () => {
  const [good] = builtInProfiles;
  const cases: [string, unknown][] = [
    ['no object', 'text'],
    ['no messages', { ...good, messages: undefined }],
    [
      'an unknown clock',
      {
        ...good,
        messages: [{ ...good!.messages[0], sentAt: { value: { column: 'a' }, clock: 'moon' } }]
      }
    ],
    [
      'an expression of no kind',
      { ...good, messages: [{ ...good!.messages[0], body: { eval: 'x' } }] }
    ],
    [
      'a pattern that does not compile',
      {
        ...good,
        messages: [{ ...good!.messages[0], body: { match: { column: 'a' }, pattern: '(' } }]
      }
    ],
    ...['(a|a)*b', '.*.*.*.*.*x', '(a+)+b', '^(?:\\w+ )+x'].map((pattern): [string, unknown] => [
      `the pattern ${pattern}, which could run for ever`,
      { ...good, messages: [{ ...good!.messages[0], body: { match: { column: 'a' }, pattern } }] }
    ])
  ];
  for (const [label, value] of cases) {
    assert.equal(readingProfileSchema.safeParse(value).success, false, label);
  }
});

test('names with a star find the table itself, not its side tables', () => {
  assert.equal(matches('Z*MESSAGE', 'ZQMESSAGE'), true);
  assert.equal(matches('Z*MESSAGE', 'ZQMESSAGEINFO'), false);
  assert.equal(matches('Chat_*', 'Chat_0af'), true);
  assert.equal(matches('Chat_*', 'Chat_a b'), false);
  assert.equal(matches('sms', 'SMS'), true);
  const table = (name: string): TableSchema =>
    tableSchema({ type: 'table', name, table: name, root: 1, sql: `CREATE TABLE "${name}"(a)` })!;
  const profile = builtInProfiles.find(({ id }) => id === 'hashed-tables')!;
  const tables = ['Chat_aa', 'Chat_bb', 'Friend'].map(table);
  assert.deepEqual(
    resolveProfile(profile, tables).messages.map((m) => m.table),
    ['Chat_aa', 'Chat_bb']
  );
});

test('markup becomes what a reader sees', () => {
  const cases: [string, string][] = [
    ['plain text', 'plain text'],
    ['a &lt; b &amp;&#x20ac;', 'a < b &€'],
    ['one<br/>two<br>three', 'one\ntwo\nthree'],
    ['<div>first</div><div>second</div>', 'first\nsecond'],
    ['hi <b>there</b> <a href="https://site.example">link</a>', 'hi there link'],
    ['<quote author="x"><legacyquote>[x]</legacyquote>said</quote>so', 'saidso'],
    [
      '<msg><appmsg><title>T &amp; U</title><des>D</des><url>http://x</url></appmsg></msg>',
      'T & U\nD'
    ],
    ['5 < 6 and so on', '5 < 6 and so on']
  ];
  for (const [markup, text] of cases) assert.equal(textOfMarkup(markup), text, markup);
});

test('times in words, with and without zones', () => {
  const cases: [string, number | null][] = [
    ['2026-03-01', Date.UTC(2026, 2, 1)],
    ['2026-03-01 09:30', Date.UTC(2026, 2, 1, 9, 30)],
    ['2026-03-01T09:30:15.25Z', Date.UTC(2026, 2, 1, 9, 30, 15, 250)],
    ['2026-03-01T09:30:15+01:30', Date.UTC(2026, 2, 1, 8, 0, 15)],
    ['2026-03-01 09:30:15 -0200', Date.UTC(2026, 2, 1, 11, 30, 15)],
    ['01.03.2026', null],
    ['not a time', null]
  ];
  for (const [text, at] of cases) assert.equal(writtenMilliseconds(text), at, text);
});
