import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { SqlValue } from '../../sqlite';
import { seeded } from '../../tests/telephony';
import { columnFacts } from './column';

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
    [
      'minus one where none is known',
      (i) => (i % 4 ? START + i * 90_000 : -1),
      'milliseconds-1970'
    ],
    [
      'the largest number where none is known',
      (i) => (i % 4 ? BigInt(START + i * 90_000) : 9_223_372_036_854_775_807n),
      'milliseconds-1970'
    ],
    ['a number too large for any time', (i) => (i % 9 ? START / 1000 + i : 1e308), 'seconds-1970'],
    ['states, and a few large numbers', (i) => (i % 4 ? i % 3 : START + i * 90_000), null],
    [
      'ticks, whole seconds',
      (i) => BigInt(START + 62_135_596_800_000 + i * 90_000) * 10_000n,
      'ticks-1'
    ],
    [
      'days and times in one',
      (i) => new Date(START + i * 90_000).toISOString().slice(0, 19).replace('T', ' '),
      'iso'
    ],
    [
      'ids that begin with the time',
      (i) =>
        `${(START + i * 90_000)
          .toString(16)
          .padStart(12, '0')
          .replace(/^(.{8})/, '$1-')}-7abc-8def-0123456789ab`,
      'uuid'
    ],
    [
      'ids of chance',
      (i) =>
        `${((i * 2_654_435_761) >>> 0).toString(16).padStart(8, '0')}-1234-4abc-8def-0123456789ab`,
      null
    ],
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
