import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import type { CorrespondentRow } from '../../service/api/protocol';
import { HitPlaces } from './hit-places';

function rows(counts: readonly number[]): CorrespondentRow[] {
  return counts.map((lines, i) => ({ id: `c${i}`, lines }) as CorrespondentRow);
}

test('hits stand below the heading of their correspondent', () => {
  const places = new HitPlaces(rows([2, 1]));
  const told = Array.from({ length: 6 }, (_, i) => {
    const place = places.at(i);
    if (!place) return 'none';
    return place.kind === 'heading' ? place.row.id : `${place.row.id}/${place.at}`;
  });
  assert.deepEqual(told, ['c0', 'c0/0', 'c0/1', 'c1', 'c1/0', 'none']);
  assert.equal(places.total, 5);
});

test('stepping goes past headings, and stays at the ends', () => {
  const places = new HitPlaces(rows([1, 1]));
  assert.equal(places.step(0, 1), 1);
  assert.equal(places.step(1, 1), 3);
  assert.equal(places.step(3, 1), 3);
  assert.equal(places.step(3, -1), 1);
  assert.equal(places.step(1, -1), 1);
});

test('every hit has one place, in the order of the correspondents', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 40 }), { maxLength: 30 }), (counts) => {
      const places = new HitPlaces(rows(counts));
      const found: string[] = [];
      for (let i = 0; i < places.total; i++) {
        const place = places.at(i)!;
        if (place.kind === 'hit') found.push(`${place.row.id}/${place.at}`);
      }
      const wanted = counts.flatMap((n, i) => Array.from({ length: n }, (_, k) => `c${i}/${k}`));
      assert.deepEqual(found, wanted);
    })
  );
});
