import assert from 'node:assert/strict';
import { test } from 'node:test';
import { readingProfileSchema, type DeskTable } from '../../../../core/profiles';
import {
  emptyProfile,
  expressionOf,
  mappingOf,
  named,
  same,
  withClock,
  withDirection,
  withRole
} from './mapping';

const table: DeskTable = {
  name: 'talk',
  rows: 3,
  more: false,
  columns: ['n', 'words', 'stamp', 'who', 'room', 'file', 'own'].map((label) => ({
    label,
    expression: { column: label },
    samples: [],
    clock: label === 'stamp' ? 'seconds-2001' : null,
    values: label === 'own' ? ['0', '1'] : []
  }))
};

test('a mapping made by hand is a profile that can be saved', () => {
  let profile = emptyProfile(table);
  const roles = {
    body: 'words',
    time: 'stamp',
    sender: 'who',
    conversation: 'room',
    attachment: 'file'
  } as const;
  for (const [role, name] of Object.entries(roles) as [keyof typeof roles, string][]) {
    const { expression, clock } = table.columns.find((column) => column.label === name)!;
    profile = withRole(profile, role, expression, clock);
    assert.ok(same(expressionOf(profile, role), { column: name }), role);
  }
  profile = withDirection(profile, { column: 'own' }, ['1'], ['0', '1']);
  const mapping = mappingOf(profile);
  assert.equal(mapping.sentAt.clock, 'seconds-2001');
  assert.deepEqual('values' in mapping.direction && mapping.direction.values, {
    '0': 'incoming',
    '1': 'outgoing'
  });
  const saved = named(profile, 'By hand', 'abc');
  assert.deepEqual(
    [saved.title, saved.fingerprint, Object.keys(saved.needs)],
    ['By hand', 'abc', ['talk']]
  );
  assert.ok(readingProfileSchema.safeParse(JSON.parse(JSON.stringify(saved))).success);
});

test('a clock that was chosen by hand stays, and a role can be taken away', () => {
  let profile = withClock(emptyProfile(table), 'iso');
  assert.deepEqual(
    [mappingOf(profile).sentAt.clock, mappingOf(profile).sentAt.fixed],
    ['iso', true]
  );
  profile = withRole(profile, 'attachment', { column: 'file' }, null);
  profile = withRole(profile, 'attachment', null, null);
  assert.equal(expressionOf(profile, 'attachment'), null);
});
