import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import {
  COPY_KINDS,
  DELETION_WAYS,
  intakeProblem,
  intakeSchema,
  MOST_COPIES,
  planOf,
  type Plan,
  type Route
} from '.';

const NOW = '2026-03-20T12:00:00Z';

/** An intake of messages sent in February and deleted on 10 March. */
function intake(told: object = {}): ReturnType<typeof intakeSchema.parse> {
  return intakeSchema.parse({
    now: NOW,
    lost: {
      kinds: ['messages'],
      app: 'phone messages',
      sentFrom: '2026-02-01',
      sentTo: '2026-02-28'
    },
    deleted: { from: '2026-03-10T08:00:00Z', to: '2026-03-10T20:00:00Z', how: 'one-by-one' },
    noticed: '2026-03-12',
    phoneUsedSince: true,
    ...told
  });
}

interface Told {
  id: string;
  kind: string;
  [key: string]: unknown;
}

function planned(copies: Told[], told: object = {}): Plan {
  return planOf(intake({ ...told, copies }));
}

function route(plan: Plan, id: string): Route {
  return plan.routes.find(({ copy }) => copy === id)!;
}

/** One copy alone, and the verdict that is right. */
const VERDICTS: [what: string, copy: Omit<Told, 'id'>, told: object, verdict: Route['verdict']][] =
  [
    ['a backup between', { kind: 'computer-backup', at: '2026-03-05' }, {}, 'contains'],
    ['a backup before', { kind: 'computer-backup', at: '2026-01-15' }, {}, 'too-early'],
    [
      'a backup while they were sent',
      { kind: 'cloud-backup', at: '2026-02-10' },
      {},
      'may-contain'
    ],
    ['a backup after', { kind: 'computer-backup', at: '2026-03-15' }, {}, 'too-late'],
    [
      'a backup within the deletion',
      { kind: 'computer-backup', at: '2026-03-10T12:00:00Z' },
      {},
      'may-contain'
    ],
    [
      'a backup at the end of the deletion',
      { kind: 'app-backup', at: '2026-03-10T20:00:00Z' },
      {},
      'too-late'
    ],
    ['a backup of an unknown day', { kind: 'computer-backup' }, {}, 'may-contain'],
    [
      'a backup whose key is lost',
      { kind: 'computer-backup', at: '2026-03-05', encrypted: true, keyKnown: false },
      {},
      'cannot'
    ],
    [
      'a backup whose key may be found',
      { kind: 'computer-backup', at: '2026-03-05', encrypted: true },
      {},
      'contains'
    ],
    [
      'a backup of contacts',
      { kind: 'computer-backup', at: '2026-03-05', covers: ['contacts'] },
      {},
      'cannot'
    ],
    ['a holding area of thirty days', { kind: 'holding-area' }, { holdingDays: 30 }, 'contains'],
    ['a holding area that ran out', { kind: 'holding-area' }, { holdingDays: 7 }, 'too-late'],
    ['a holding area of unknown length', { kind: 'holding-area' }, {}, 'may-contain'],
    ['a holding area that is off', { kind: 'holding-area' }, { holdingDays: 0 }, 'cannot'],
    [
      'the phone, to its file system',
      { kind: 'handset', deepest: 'file-system' },
      {},
      'may-contain'
    ],
    ['the phone, logically', { kind: 'handset', deepest: 'logical' }, {}, 'too-late'],
    [
      'the phone that was lost',
      { kind: 'handset' },
      { deleted: { how: 'lost-phone', from: '2026-03-10', to: '2026-03-10' } },
      'cannot'
    ],
    [
      'the phone after a reset, encrypted',
      { kind: 'handset', deepest: 'physical', encrypted: true },
      { deleted: { how: 'reset', from: '2026-03-10', to: '2026-03-10' } },
      'cannot'
    ],
    [
      'the phone after a reset, raw',
      { kind: 'handset', deepest: 'physical', encrypted: false },
      { deleted: { how: 'reset', from: '2026-03-10', to: '2026-03-10' } },
      'may-contain'
    ],
    ['a sync that is on', { kind: 'cloud-sync' }, { syncOn: true }, 'too-late'],
    ['a sync that is off', { kind: 'cloud-sync' }, { syncOn: false }, 'may-contain'],
    ['the other side', { kind: 'other-party' }, {}, 'may-contain'],
    ['an old phone, put away before', { kind: 'old-handset', at: '2026-03-01' }, {}, 'contains'],
    [
      'an old phone, put away long before',
      { kind: 'old-handset', at: '2026-01-01' },
      {},
      'too-early'
    ],
    [
      'a computer where the app ran later',
      { kind: 'computer-app', at: '2026-03-19' },
      {},
      'may-contain'
    ],
    ['a card', { kind: 'card' }, {}, 'may-contain'],
    [
      'a card, for another app',
      { kind: 'card' },
      { lost: { kinds: ['messages'], app: 'parley' } },
      'cannot'
    ],
    [
      'a backup, of an app in the cloud',
      { kind: 'computer-backup', at: '2026-03-05' },
      {
        lost: {
          kinds: ['messages'],
          cloudOnlyApp: true,
          sentFrom: '2026-02-01',
          sentTo: '2026-02-28'
        }
      },
      'cannot'
    ],
    [
      'an export, of an app in the cloud',
      { kind: 'app-export', at: '2026-03-05' },
      {
        lost: {
          kinds: ['messages'],
          cloudOnlyApp: true,
          sentFrom: '2026-02-01',
          sentTo: '2026-02-28'
        }
      },
      'contains'
    ],
    [
      'a backup while they aged out',
      { kind: 'computer-backup', at: '2026-03-05' },
      { keepDays: 30, deleted: { how: 'aged-out' } },
      'may-contain'
    ],
    [
      'a backup before the first aged out',
      { kind: 'computer-backup', at: '2026-03-01' },
      { keepDays: 30, deleted: { how: 'aged-out' } },
      'contains'
    ],
    [
      'a backup after the last aged out',
      { kind: 'computer-backup', at: '2026-03-19' },
      { keepDays: 10, deleted: { how: 'aged-out' } },
      'too-late'
    ],
    [
      'a backup, nothing known',
      { kind: 'computer-backup', at: '2026-03-05' },
      { lost: {}, deleted: {}, noticed: null },
      'may-contain'
    ]
  ];

for (const [what, copy, told, verdict] of VERDICTS)
  test(`${what}: ${verdict}`, () => {
    const plan = planned([{ id: 'c', ...copy } as Told], told);
    assert.equal(plan.routes[0]!.verdict, verdict, plan.routes[0]!.reasons.join(' '));
    assert.ok(plan.routes[0]!.reasons.length > 0);
  });

test('the newest copy that still holds them goes first, and one that changes the phone after it', () => {
  const { routes } = planned([
    { id: 'after', kind: 'computer-backup', at: '2026-03-18' },
    { id: 'old', kind: 'computer-backup', at: '2026-03-01' },
    { id: 'phone', kind: 'handset', deepest: 'physical' },
    { id: 'new', kind: 'cloud-backup', at: '2026-03-09' },
    { id: 'drawer', kind: 'old-handset', at: '2026-03-10T07:00:00Z' },
    { id: 'early', kind: 'app-backup', at: '2026-01-01' }
  ]);
  assert.deepEqual(
    routes.map(({ copy }) => copy),
    ['new', 'old', 'drawer', 'phone', 'after', 'early']
  );
  assert.deepEqual(
    routes.map(({ rank }) => rank),
    [1, 2, 3, 4, 5, 6]
  );
});

test('a plan as it is drawn: holding area, backup, snapshot of the day, freed space, the other side', () => {
  const { routes } = planOf(
    intakeSchema.parse({
      now: '2026-04-03',
      lost: { kinds: ['messages', 'attachments'], sentFrom: '2026-03-09', sentTo: '2026-03-14' },
      deleted: { from: '2026-03-29', to: '2026-04-01', how: 'whole-conversation' },
      noticed: '2026-04-02',
      phoneUsedSince: true,
      syncOn: false,
      keepDays: 0,
      holdingDays: 30,
      copies: [
        { id: 'O', kind: 'other-party' },
        { id: 'P', kind: 'handset', deepest: 'file-system' },
        { id: 'C', kind: 'cloud-backup', at: '2026-03-29', willBeOverwrittenBy: '2026-04-05' },
        { id: 'B', kind: 'computer-backup', at: '2026-03-15', encrypted: true, keyKnown: true },
        { id: 'H', kind: 'holding-area' }
      ]
    })
  );
  assert.deepEqual(
    routes.map(
      ({ copy, verdict, doBefore }) => `${copy} ${verdict} ${doBefore?.slice(0, 10) ?? '-'}`
    ),
    [
      'H contains 2026-04-28',
      'B contains -',
      'C may-contain 2026-04-05',
      'P may-contain -',
      'O may-contain -'
    ]
  );
});

test('what runs out says when, and what a restore overwrites is told', () => {
  const plan = planned(
    [
      { id: 'held', kind: 'holding-area' },
      {
        id: 'backup',
        kind: 'computer-backup',
        at: '2026-03-05',
        willBeOverwrittenBy: '2026-03-22T03:00:00Z'
      },
      {
        id: 'late',
        kind: 'computer-backup',
        at: '2026-03-15',
        willBeOverwrittenBy: '2026-03-22T03:00:00Z'
      },
      { id: 'export', kind: 'app-export', at: '2026-03-05' }
    ],
    { holdingDays: 30 }
  );
  assert.equal(route(plan, 'held').doBefore, '2026-04-09T08:00:00.000Z');
  assert.equal(route(plan, 'backup').doBefore, '2026-03-22T03:00:00.000Z');
  assert.equal(route(plan, 'late').doBefore, null, 'what cannot help does not press');
  assert.match(route(plan, 'backup').newerLost!, /newer than the backup of 2026-03-05/);
  assert.equal(route(plan, 'export').newerLost, null);
  assert.equal(route(plan, 'held').newerLost, null);
  const codes = plan.warnings.map(({ code }) => code);
  for (const code of [
    'stop-using-phone',
    'restore-overwrites',
    'erase-replaces-backup',
    'backup-will-be-replaced'
  ])
    assert.ok(codes.includes(code), `${code} of ${codes.join()}`);
});

test('a phone that was reset and not used since has nothing newer to lose', () => {
  const told = {
    phoneUsedSince: false,
    deleted: { how: 'reset', from: '2026-03-10', to: '2026-03-10' }
  };
  const plan = planned([{ id: 'b', kind: 'cloud-backup', at: '2026-03-05' }], told);
  assert.equal(route(plan, 'b').newerLost, null);
  assert.equal(route(plan, 'b').verdict, 'contains');
});

const CONTRADICTED: [what: string, told: object, says: RegExp][] = [
  [
    'dates the wrong way round',
    { lost: { sentFrom: '2026-02-28', sentTo: '2026-02-01' } },
    /ends before it begins/
  ],
  [
    'a deletion the wrong way round',
    { deleted: { from: '2026-03-11', to: '2026-03-10' } },
    /deletion ends before/
  ],
  [
    'deleted before it was sent',
    { deleted: { from: '2026-01-01', to: '2026-01-02' } },
    /before it was sent/
  ],
  ['deleted tomorrow', { deleted: { from: '2027-01-01', to: null } }, /deleted in the future/],
  ['noticed tomorrow', { noticed: '2027-01-01' }, /noticed in the future/]
];
for (const [what, told, says] of CONTRADICTED)
  test(`${what}: a warning, and a plan all the same`, () => {
    const document = {
      now: NOW,
      lost: { sentFrom: '2026-02-01', sentTo: '2026-02-28' },
      copies: [{ id: 'b', kind: 'cloud-backup', at: '2026-03-05' }],
      ...told
    };
    const { routes, warnings } = planOf(intakeSchema.parse(document));
    assert.equal(routes.length, 1);
    const [first] = warnings;
    assert.equal(first!.code, 'contradiction');
    assert.match(first!.text, says);
  });

const REFUSED: [what: string, told: object, says: RegExp][] = [
  [
    'two copies of one name',
    {
      copies: [
        { id: 'c', kind: 'card' },
        { id: 'c', kind: 'disk' }
      ]
    },
    /two copies/
  ],
  ['a kind that nobody knows', { copies: [{ id: 'c', kind: 'pigeon' }] }, /copies\.0\.kind/],
  ['no date', { noticed: 'yesterday' }, /noticed/],
  [
    'a thousand copies',
    { copies: Array.from({ length: 1000 }, (_, i) => ({ id: String(i), kind: 'disk' })) },
    /at most 200 copies/
  ]
];

for (const [what, told, says] of REFUSED)
  test(`${what} get a sentence`, () => {
    const document = { now: NOW, lost: { sentFrom: '2026-02-01', sentTo: '2026-02-28' }, ...told };
    const checked = intakeSchema.safeParse(document);
    assert.ok(!checked.success);
    assert.match(intakeProblem(checked.error), says);
  });

test('whatever is answered, every copy has one route, ranks run through, and useless ones come last', () => {
  const day = fc
    .integer({ min: 0, max: 400 })
    .map((n) => new Date(Date.UTC(2025, 6, 1) + n * 86_400_000).toISOString().slice(0, 10));
  const maybe = <T>(value: fc.Arbitrary<T>): fc.Arbitrary<T | null> => fc.option(value);
  const copy = fc.record({
    kind: fc.constantFrom(...COPY_KINDS),
    at: maybe(day),
    encrypted: maybe(fc.boolean()),
    keyKnown: maybe(fc.boolean()),
    willBeOverwrittenBy: maybe(day),
    deepest: maybe(fc.constantFrom('logical', 'file-system', 'physical'))
  });
  const document = fc.record({
    lost: fc.record({
      sentFrom: maybe(day),
      sentTo: maybe(day),
      cloudOnlyApp: maybe(fc.boolean())
    }),
    deleted: fc.record({
      from: maybe(day),
      to: maybe(day),
      how: fc.constantFrom(...DELETION_WAYS)
    }),
    phoneUsedSince: maybe(fc.boolean()),
    keepDays: maybe(fc.nat(90)),
    syncOn: maybe(fc.boolean()),
    holdingDays: maybe(fc.nat(60)),
    copies: fc.array(copy, { maxLength: 8 })
  });
  fc.assert(
    fc.property(document, (told) => {
      const copies = told.copies.map((one, i) => ({ id: `c${i}`, ...one }));
      const checked = intakeSchema.safeParse({ now: '2026-09-01', ...told, copies });
      if (!checked.success) return;
      const { routes } = planOf(checked.data);
      assert.deepEqual(
        new Set(routes.map(({ copy: id }) => id)),
        new Set(copies.map(({ id }) => id))
      );
      assert.deepEqual(
        routes.map(({ rank }) => rank),
        routes.map((_, i) => i + 1)
      );
      const useful = routes.map(
        ({ verdict }) => verdict === 'contains' || verdict === 'may-contain'
      );
      assert.ok(!useful.some((is, i) => is && i > 0 && !useful[i - 1]));
      for (const { doBefore } of routes)
        assert.ok(doBefore === null || Date.parse(doBefore) > Date.parse('2026-09-01'));
    })
  );
  assert.equal(MOST_COPIES, 200);
});
