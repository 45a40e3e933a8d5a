import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { SqlValue } from '../../sqlite';
import { seeded } from '../../tests/telephony';
import { columnFacts } from './column';
import { byAbsence, directionColumn, ownerByPresence, twoKinds, type Talk } from './direction';
import type { SampledTable } from './sample';
import type { VirtualColumn } from './virtual';

const COUNT = 200;
const START = Date.UTC(2024, 2, 5);

function values(make: (i: number) => SqlValue): SqlValue[] {
  return Array.from({ length: COUNT }, (_, i) => make(i));
}

const random = seeded(17);
const WORDS = 'tide slip oak ferry tar rope lamp quay gull mast'.split(' ');

function sentence(i: number): string {
  const words = Array.from({ length: 3 + (i % 7) }, () => WORDS[Math.floor(random() * 10)]!);
  return `${words.join(' ')}${i % 3 === 0 ? '?' : ''}`;
}

test('a column of times is told by what its values would be under each clock', () => {
  const cases: [string, (i: number) => SqlValue, string | null][] = [
    ['seconds', (i) => START / 1000 + i * 90, 'seconds-1970'],
    ['milliseconds', (i) => START + i * 90_000 + 7, 'milliseconds-1970'],
    ['microseconds', (i) => (START + i * 90_000) * 1000 + 3, 'microseconds-1970'],
    ['nanoseconds', (i) => BigInt(START + i * 90_000) * 1_000_000n, 'nanoseconds-1970'],
    ['seconds since 2001', (i) => START / 1000 - 978_307_200 + i * 90.5, 'seconds-2001'],
    ['dates in words', (i) => new Date(START + i * 90_000).toISOString(), 'iso'],
    ['numbers kept as text', (i) => String(START + i * 90_000), 'milliseconds-1970'],
    ['zeros among them', (i) => (i % 3 === 0 ? 0 : START + i * 90_000), 'milliseconds-1970'],
    ['row numbers', (i) => i + 1, null],
    ['sizes', (i) => 1000 + i * 37, null],
    ['words', sentence, null],
    ['nothing', () => null, null]
  ];
  for (const [says, make, clock] of cases)
    assert.equal(columnFacts('c', values(make)).clock?.clock ?? null, clock, says);
});

test('times that rise from row to row are told from those that do not', () => {
  const rising = columnFacts(
    'c',
    values((i) => START + i * 1000)
  );
  const mixed = columnFacts(
    'c',
    values((i) => START + ((i * 7919) % COUNT) * 1000)
  );
  assert.equal(rising.clock!.rising, 1);
  assert.ok(mixed.clock!.rising < 0.7);
});

test('what people write is told from codes, paths, names and structures', () => {
  const score = (make: (i: number) => SqlValue): number =>
    columnFacts('c', values(make)).wording?.score ?? 0;
  assert.ok(score(sentence) > 0.8);
  const others: [string, (i: number) => SqlValue][] = [
    ['identifiers', (i) => `9f8e7d6c5b4a3f2e1d0c${String(i).padStart(4, '0')}`],
    ['paths', (i) => `/storage/media/pictures of ${i}/image.jpg`],
    ['numbers', (i) => `+44 7700 9${String(i).padStart(5, '0')}`],
    ['mail', (i) => `person${i}@quay.example`],
    ['structures', (i) => `{"kind": "note", "id": ${i}}`],
    ['dates', (i) => new Date(START + i * 1e6).toISOString()],
    ['one word', (i) => (i % 2 ? 'delivered' : 'failed')]
  ];
  for (const [says, make] of others) assert.ok(score(make) < 0.5, `${says}: ${score(make)}`);
  assert.equal(
    columnFacts(
      'c',
      values((i) => i)
    ).wording,
    null
  );
});

test('counts say what a column holds', () => {
  const facts = columnFacts('c', [1, 2n, 'a', 'a', '', null, new Uint8Array(2)]);
  const { filled, rows, numbers, texts, blobs, distinct } = facts;
  assert.deepEqual([filled, rows, numbers, texts, blobs, distinct], [5, 7, 2, 2, 1, 3]);
  assert.deepEqual(facts.frequent.get('a'), 2);
});

/** A table of which only the columns count. */
function tableOf(columns: Record<string, SqlValue[]>): SampledTable {
  const names = Object.keys(columns);
  const rows = values(() => null).map((_, i) => names.map((name) => columns[name]![i]!));
  return {
    columns: names.map((name) => columnFacts(name, columns[name]!)),
    rows,
    index: (name: string) => names.indexOf(name)
  } as unknown as SampledTable;
}

function mapped(name: string, stored: SqlValue[]): Record<string, string> | null {
  const found = directionColumn(
    tableOf({ [name]: values((i) => stored[i % stored.length]!) })
  )?.field;
  return found && 'values' in found ? found.values : null;
}

test('a column says who wrote, by its name and its few values', () => {
  const out = { '0': 'incoming', '1': 'outgoing' };
  const cases: [string, SqlValue[], Record<string, string> | null][] = [
    ['is_from_me', [0, 1], out],
    ['outgoing', [1, 0, 0], out],
    ['is_incoming', [0, 1], { '0': 'outgoing', '1': 'incoming' }],
    ['direction', [0, 1], out],
    ['direction', [1, -1, 0], { '1': 'incoming', '-1': 'outgoing', '0': 'system' }],
    ['direction', [1, 2], { '1': 'incoming', '2': 'outgoing' }],
    ['dir', ['in', 'out'], { in: 'incoming', out: 'outgoing' }],
    [
      'way',
      ['received', 'sent', 'system'],
      { received: 'incoming', sent: 'outgoing', system: 'system' }
    ],
    ['state', ['sent', 'failed'], null],
    ['read', [0, 1], null],
    ['direction', [0, 5], null],
    ['direction', [0, 1, 2, 3, 4, 5, 6, 7, 8], null]
  ];
  for (const [name, stored, expected] of cases)
    assert.deepEqual(mapped(name, stored), expected, `${name} ${stored.join()}`);
});

test('kinds with the usual numbers speak too, but weigh less', () => {
  const kinds = directionColumn(tableOf({ type: values((i) => 1 + (i % 2)) }))!;
  const flag = directionColumn(
    tableOf({ type: values((i) => 1 + (i % 2)), from_me: values((i) => i % 2) })
  )!;
  assert.ok(flag.weight > kinds.weight);
  assert.match(flag.reason, /from_me/);
});

test('the owner is who writes in nearly all conversations, while others write in few', () => {
  const talk = (author: SqlValue, conversation: SqlValue): Talk => ({ author, conversation });
  const rooms = [1, 2, 3, 4, 5];
  const own = rooms.flatMap((room) => [talk('me', room), talk(`peer${room}`, room)]);
  assert.equal(ownerByPresence(own), 'me');
  assert.equal(ownerByPresence(own.filter(({ conversation }) => conversation === 1)), null);
  assert.equal(ownerByPresence([...own, ...rooms.map((room) => talk('other', room))]), null);
  assert.equal(ownerByPresence([talk(null, 1), talk('a', null)]), null);
});

test('a writer that is missing in a good part of the rows tells the owner’s own', () => {
  const column = (make: (i: number) => SqlValue): VirtualColumn =>
    ({
      name: 'sender',
      expression: { column: 'sender' },
      facts: columnFacts('sender', values(make))
    }) as unknown as VirtualColumn;
  assert.notEqual(byAbsence(column((i) => (i % 3 ? `p${i % 5}` : null))), null);
  assert.equal(
    byAbsence(column((i) => (i % 50 ? `p${i % 5}` : null))),
    null,
    'hardly ever missing'
  );
  assert.equal(byAbsence(column((i) => (i % 3 ? 'p' : null))), null, 'one writer alone');
  assert.equal(byAbsence(column(() => null)), null, 'nobody at all');
});

test('of two frequent kinds the smaller is taken for what came in', () => {
  const found = twoKinds(tableOf({ msg_type: values((i) => (i % 40 === 0 ? 9 : 20 + (i % 2))) }))!;
  assert.deepEqual('values' in found.field && found.field.values, {
    '20': 'incoming',
    '21': 'outgoing'
  });
  assert.equal(twoKinds(tableOf({ msg_type: values((i) => i % 3) })), null);
  assert.equal(twoKinds(tableOf({ size: values((i) => i % 2) })), null);
});
