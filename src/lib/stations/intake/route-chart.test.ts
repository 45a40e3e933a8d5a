import assert from 'node:assert/strict';
import { test } from 'node:test';
import { intakeSchema, planOf, timesOf } from '../../../../core/plan';
import { chartOf } from './route-chart';

function chart(told: object): ReturnType<typeof chartOf> {
  const intake = intakeSchema.parse({ now: '2026-04-03T12:00:00Z', ...told });
  return chartOf(intake, planOf(intake), timesOf(intake));
}

test('the lost span comes first, then copies in the order of their routes, all within the chart', () => {
  const { rows, from, to, deleted } = chart({
    lost: { sentFrom: '2026-03-09', sentTo: '2026-03-14' },
    deleted: { from: '2026-03-29', to: '2026-04-01' },
    copies: [
      { id: 'a', kind: 'handset', deepest: 'logical' },
      { id: 'b', kind: 'computer-backup', at: '2026-03-15', name: 'office backup' }
    ]
  });
  assert.deepEqual(
    rows.map(({ title, verdict }) => `${title} ${verdict}`),
    ['lost messages sent null', 'office backup contains', 'the phone itself too-late']
  );
  assert.ok(rows.every((row) => row.from >= from && row.to <= to && row.from <= row.to));
  assert.equal(new Date(deleted!.from).toISOString().slice(0, 10), '2026-03-29');
});

test('where nothing is known the chart still has two ends', () => {
  const { from, to, deleted, rows } = chart({});
  assert.ok(Number.isFinite(from) && Number.isFinite(to) && from < to);
  assert.equal(deleted, null);
  assert.equal(rows.length, 1);
});
