import assert from 'node:assert/strict';
import { test } from 'node:test';
import { settingsSchema } from '../../../../core/produce';
import type { ProductionRecord } from '../../storage/schema';
import { nextNumber, overlapping } from './serials';

function made(prefix: string, first: string | null, last: string | null): ProductionRecord {
  const settings = settingsSchema.parse({ numbering: { prefix } });
  return { first, last, settings } as ProductionRecord;
}

const PRODUCTIONS = [
  made('FD-', 'FD-000001', 'FD-000104'),
  made('FD-', 'FD-000105', 'FD-000120'),
  made('EX 7-', 'EX 7-000001', 'EX 7-000003'),
  made('', null, null)
];

test('numbers go on behind the last of their prefix', () => {
  assert.equal(nextNumber(PRODUCTIONS, 'FD-'), 121);
  assert.equal(nextNumber(PRODUCTIONS, 'EX 7-'), 4);
  assert.equal(nextNumber(PRODUCTIONS, 'OTHER-'), null);
  assert.equal(nextNumber([], 'FD-'), null);
});

test('numbers that were given before are told', () => {
  assert.equal(overlapping(PRODUCTIONS, { prefix: 'FD-', start: 104 }, 1), PRODUCTIONS[0]);
  assert.equal(overlapping(PRODUCTIONS, { prefix: 'FD-', start: 110 }, 100), PRODUCTIONS[1]);
  assert.equal(overlapping(PRODUCTIONS, { prefix: 'FD-', start: 121 }, 100), null);
  assert.equal(overlapping(PRODUCTIONS, { prefix: 'EX 7-', start: 0 }, 1), null);
  assert.equal(overlapping(PRODUCTIONS, { prefix: 'EX 7-', start: 0 }, 2), PRODUCTIONS[2]);
});
