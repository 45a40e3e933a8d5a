import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { SqlValue } from '../../sqlite';
import { columnFacts } from './column';
import {
  alwaysThere,
  byAbsence,
  byColumn,
  byReceipt,
  holdsInGroups,
  ownerByPresence,
  type Talk
} from './direction';
import type { Parties } from './context';
import type { Field } from './fields';

const COUNT = 200;

function field(name: string, make: (i: number) => SqlValue): Field {
  const values = Array.from({ length: COUNT }, (_, i) => make(i));
  return {
    facts: columnFacts(name, values),
    expression: { column: name },
    values,
    table: 'm',
    name,
    hops: 0,
    isInside: false
  };
}

const NOBODY: Parties = { sender: null, recipient: null, room: null };
/** The owner wrote every third line. */
const own = (i: number): boolean => i % 3 === 0;
const room = field('chat', (i) => `room ${i % 5}`);

function mapped(fields: Field[], parties: Partial<Parties> = {}): Record<string, string> | null {
  const { worked } = byColumn(fields, { ...NOBODY, room, ...parties });
  return worked && 'values' in worked.field ? worked.field.values : null;
}

test('names and words that say who wrote are believed', () => {
  const cases: [string, (i: number) => SqlValue, Record<string, string>][] = [
    ['is_from_me', (i) => (own(i) ? 1 : 0), { '1': 'outgoing', '0': 'incoming' }],
    ['isFromMe', (i) => (own(i) ? 1 : 0), { '1': 'outgoing', '0': 'incoming' }],
    ['ZISFROMME', (i) => (own(i) ? 1 : 0), { '1': 'outgoing', '0': 'incoming' }],
    ['is_incoming', (i) => (own(i) ? 0 : 1), { '0': 'outgoing', '1': 'incoming' }],
    ['outgoing', (i) => (own(i) ? 'true' : 'false'), { true: 'outgoing', false: 'incoming' }],
    ['dir', (i) => (own(i) ? 'out' : 'in'), { in: 'incoming', out: 'outgoing' }],
    ['box', (i) => (own(i) ? 'S' : 'R'), { R: 'incoming', S: 'outgoing' }]
  ];
  for (const [name, make, expected] of cases)
    assert.deepEqual(mapped([field(name, make)]), expected, name);
});

test('a column of two numbers says nothing by itself, and is asked about', () => {
  for (const name of ['direction', 'dir', 'type', 'kind']) {
    const { worked, open } = byColumn([field(name, (i) => (own(i) ? 1 : 0))], { ...NOBODY, room });
    assert.equal(worked, null, name);
    assert.equal(open?.column, name);
    assert.deepEqual(open.sides.map(({ value }) => value).sort(), ['0', '1']);
  }
  for (const name of ['read', 'status', 'starred', 'device'])
    assert.equal(byColumn([field(name, (i) => i % 2)], { ...NOBODY, room }).open, null, name);
});

test('evidence decides the polarity, whichever it is', () => {
  const evidence: [string, (i: number) => SqlValue][] = [
    ['read', (i) => (own(i) ? 1 : i % 10 === 1 ? 0 : 1)],
    ['unread', (i) => (!own(i) && i % 10 === 1 ? 1 : 0)],
    ['delivered_at', (i) => (own(i) ? 1_700_000_000 + i : null)],
    ['received_at', (i) => (own(i) ? null : 1_700_000_000 + i)]
  ];
  for (const [name, make] of evidence)
    for (const [one, other] of [
      [0, 1],
      [1, 0],
      [20, 21],
      [87, 10]
    ] as const) {
      const flag = field('direction', (i) => (own(i) ? one : other));
      assert.deepEqual(
        mapped([flag, field(name, make)]),
        { [one]: 'outgoing', [other]: 'incoming' },
        `${name} ${one} ${other}`
      );
    }
});

test('evidence that speaks for neither side, or for both, decides nothing', () => {
  const flag = field('direction', (i) => (own(i) ? 1 : 0));
  const others: [string, (i: number) => SqlValue][] = [
    ['read', (i) => i % 2],
    ['read', () => 1],
    ['delivered_at', (i) => (i % 7 ? 1_700_000_000 : null)],
    ['delivered_at', () => null]
  ];
  for (const [name, make] of others) assert.equal(mapped([flag, field(name, make)]), null, name);
});

test('one writer on a side and many on the other show the owner, in groups too', () => {
  const flag = field('way', (i) => (own(i) ? 7 : 3));
  const sender = field('sender', (i) => (own(i) ? 'me' : `peer ${i % 5}`));
  assert.deepEqual(mapped([flag, sender], { sender }), { '7': 'outgoing', '3': 'incoming' });
  const nick = field('x', (i) => (own(i) ? 'tilda' : `member ${i % 4}`));
  const group = field('chat', () => 'crew');
  assert.deepEqual(mapped([flag, nick], { room: group }), { '7': 'outgoing', '3': 'incoming' });
});

test('the owner is who writes in nearly all conversations, while others write in few', () => {
  const talk = (author: SqlValue, conversation: SqlValue): Talk => ({ author, conversation });
  const rooms = [1, 2, 3, 4, 5];
  const all = rooms.flatMap((n) => [talk('me', n), talk(`peer${n}`, n)]);
  assert.equal(ownerByPresence(all), 'me');
  assert.equal(ownerByPresence(all.filter(({ conversation }) => conversation === 1)), null);
  assert.equal(ownerByPresence([...all, ...rooms.map((n) => talk('other', n))]), null);
  assert.equal(ownerByPresence([talk(null, 1), talk('a', null)]), null);
});

test('who wrote or received every message is the owner, unless that is true of two', () => {
  assert.equal(alwaysThere(['a', 'me', 'b'], ['me', 'a', 'me']), 'me');
  assert.equal(alwaysThere(['a', 'me'], ['me', 'a']), null);
});

test('a writer that is missing in a good part of the rows tells the owner’s own', () => {
  assert.notEqual(byAbsence(field('sender', (i) => (i % 3 ? `p${i % 5}` : null))), null);
  assert.equal(byAbsence(field('sender', (i) => (i % 50 ? `p${i % 5}` : null))), null);
  assert.equal(byAbsence(field('sender', (i) => (i % 3 ? 'p' : null))), null, 'one writer alone');
  assert.equal(byAbsence(field('sender', () => null)), null, 'nobody at all');
});

test('a receipt that a part of the rows has marks what was sent', () => {
  assert.notEqual(byReceipt([field('ackTime', (i) => (own(i) ? 1_700_000_000 + i : null))]), null);
  assert.equal(byReceipt([field('ackTime', (i) => 1_700_000_000 + i)]), null);
  assert.equal(byReceipt([field('packTime', (i) => (own(i) ? 1_700_000_000 : null))]), null);
});

test('in a group only one may be the owner', () => {
  const group = field('chat', () => 'crew');
  const sender = field('sender', (i) => `member ${i % 4}`);
  const outgoing = (test: (i: number) => boolean): boolean[] =>
    Array.from({ length: COUNT }, (_, i) => test(i));
  assert.equal(
    holdsInGroups(
      outgoing((i) => i % 4 === 0),
      sender,
      group
    ),
    true
  );
  assert.equal(
    holdsInGroups(
      outgoing((i) => i % 4 !== 0),
      sender,
      group
    ),
    false
  );
});
