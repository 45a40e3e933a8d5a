import { Naming } from '$core/case';
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { emptyFindings, type Findings, type Message } from '$core/records';
import { ZonedTime } from '$core/shown';
import { messageRecord } from '../../../../core/tests/records';
import { purgeDeleted, setDeleted } from '../../storage/casebook';
import { openStorage } from '../../storage/open';
import type { CaseRecord } from '../../storage/schema';
import { NotesRoom } from '../notes/notes-room';
import { PeopleRoom } from './people-room';
import { OPEN_FILTER, type ReadFilter } from '../api/protocol';
import { Reader } from '../lines/query';
import { finderOver, findingsOf, keptCase } from '../tests/kept-case';

const AT = Date.UTC(2026, 2, 1, 9);

/** A store in which people of some addresses write some lines each. */
function store(
  id: string,
  people: [address: string, name: string | null, texts: string[]][]
): Findings {
  const messages: Message[] = [];
  for (const [n, [address, , texts]] of people.entries())
    texts.forEach((body, i) =>
      messages.push(
        messageRecord({
          id: `${id}/m/${n}-${i}`,
          store: id,
          thread: `${id}/t/${address}`,
          sender: `p:${address}`,
          body,
          sentAt: AT + n * 86_400_000 + i * 61_000
        })
      )
    );
  return {
    ...emptyFindings(),
    stores: findingsOf(id, {}).stores,
    people: people.map(([address, name]) => ({
      id: `p:${address}`,
      name,
      addresses: [address],
      owner: false
    })),
    threads: people.map(([address]) => ({
      id: `${id}/t/${address}`,
      store: id,
      title: null,
      participants: [`p:${address}`],
      group: false
    })),
    messages
  };
}

const TEXTS = [
  'come to the quay',
  'bring the plan',
  'and the keys',
  'before six',
  'no receipt',
  'the tin'
];

/** A case of two sources, with the rooms that answer for it. */
async function opened(): Promise<{
  room: PeopleRoom;
  notes: NotesRoom;
  rows: (filter?: Partial<ReadFilter>) => Promise<string[]>;
}> {
  const { keeper, record } = await keptCase([
    store('s1.1', [
      ['+4740123456', null, TEXTS],
      ['72022', null, ['your code is 4411']]
    ]),
    store('s2.1', [
      ['gull77', 'Gull', TEXTS],
      ['40123456', null, ['later']]
    ])
  ]);
  await keeper.join(true);
  let kept: CaseRecord = record;
  const naming = (): Naming =>
    new Naming(keeper.index.people, kept.names, 'Eirin Vold', keeper.index.individuals);
  const notes = new NotesRoom({
    caseId: () => kept.id,
    lines: async () => ['s1.1/m/0-1', 's1.1/m/0-4'],
    chosenFiles: () => [],
    changed: () => undefined
  });
  const room = new PeopleRoom({
    index: () => keeper.index,
    naming,
    record: () => kept,
    sources: async () => [],
    change: async (change) => {
      const db = await openStorage();
      kept = { ...kept, ...change(kept) };
      await db.put('cases', kept);
      await keeper.join(false);
    }
  });
  const rows = async (filter: Partial<ReadFilter> = {}): Promise<string[]> => {
    const reader = new Reader(
      keeper.index,
      naming(),
      new ZonedTime('Etc/UTC'),
      finderOver(keeper.index),
      {
        chosen: new Set(),
        chosenIn: () => Promise.resolve(new Map()),
        codes: new Map(),
        notes,
        moreHits: () => undefined
      }
    );
    const found = await reader.correspondents({ ...OPEN_FILTER, ...filter });
    return found
      .map(({ name, lines, isNotice }) => `${name}: ${lines}${isNotice ? ', a notice' : ''}`)
      .sort();
  };
  return { room, notes, rows };
}

test('one person’s conversations in two sources are one, with copies folded; a code is a notice', async () => {
  const { room, rows } = await opened();
  assert.deepEqual(await rows(), ['72022: 1, a notice', 'Gull: 7']);
  const card = (await room.card('p:gull77'))!;
  assert.equal(card.id, 'p:+4740123456');
  assert.deepEqual(card.joins.map(({ reason }) => reason).sort(), ['conversation', 'number']);
  assert.equal(card.addresses.length, 3);
});

test('a join is undone and made again by hand; what was parted is told', async () => {
  const { room, rows } = await opened();
  await room.takeOut('p:gull77');
  assert.deepEqual(await rows(), ['+47 40 12 34 56: 7', '72022: 1, a notice', 'Gull: 6']);
  assert.deepEqual(
    (await room.view()).undone.map(({ reason }) => reason),
    ['conversation']
  );
  await room.join('p:+4740123456', 'p:gull77');
  assert.deepEqual(await rows(), ['72022: 1, a notice', 'Gull: 7']);
  assert.deepEqual((await room.view()).undone, []);
});

test('any part of any name or address finds the whole conversation', async () => {
  const { rows } = await opened();
  for (const query of ['gull', 'ULL7', '401 234', '+47 40', '40123456'])
    assert.deepEqual(await rows({ query }), ['Gull: 7'], query);
  assert.deepEqual(await rows({ query: 'receipt' }), ['Gull: 1']);
});

test('an imported list names people; a file that is none says why', async () => {
  const { room, rows } = await opened();
  const told = await room.importNames(
    'name,phone\nRagna Solheim,401 23 456\nNobody,\n',
    'names.csv'
  );
  assert.deepEqual(told, { ok: true, names: 1, used: 1, unused: 1 });
  assert.ok((await rows()).includes('Ragna Solheim: 7'));
  assert.equal((await room.view()).imported, 1);
  const wrong = await room.importNames('nothing', 'a.txt');
  assert.ok(!wrong.ok && /a\.txt: /.test(wrong.reason));
  await room.forgetNames();
  assert.ok((await rows()).includes('Gull: 7'));
});

test('an address that is the owner’s leads to no correspondent of its own', async () => {
  const { room, rows } = await opened();
  await room.setOwner('p:72022', true);
  assert.deepEqual((await room.card('p:72022'))!.isOwner, true);
  assert.ok(!(await rows()).some((row) => row.startsWith('72022')));
  await room.setOwner('p:72022', false);
  assert.ok((await rows()).includes('72022: 1, a notice'));
});

test('lines are found by their notes, and narrowed by their labels and sources', async () => {
  const { notes, rows } = await opened();
  await notes.keep({
    of: 's1.1/m/0-4',
    kind: 'line',
    text: 'who says so?',
    labels: ['money', ' ']
  });
  assert.deepEqual(await rows({ query: 'who says' }), ['Gull: 1']);
  assert.deepEqual(await rows({ label: 'money' }), ['Gull: 1']);
  assert.deepEqual(await rows({ label: '' }), ['Gull: 1']);
  assert.deepEqual(await rows({ label: 'other' }), []);
  assert.deepEqual(await rows({ place: 's2.1' }), ['Gull: 7']);
  assert.deepEqual(await rows({ place: 's1' }), ['72022: 1, a notice', 'Gull: 6']);
  assert.deepEqual(await notes.labels(), [['money', 1]]);
  await notes.keep({ of: 's1.1/m/0-4', kind: 'line', text: '', labels: [] });
  assert.equal(await notes.of('s1.1/m/0-4'), null);
});

test('a label is put on many lines at once, and taken off again', async () => {
  const { notes, rows } = await opened();
  const all = { kind: 'line', filter: OPEN_FILTER } as const;
  await notes.keep({ of: 's1.1/m/0-1', kind: 'line', text: 'ask them', labels: ['money'] });
  assert.equal(await notes.label(all, ' money ', true), 1);
  assert.deepEqual(await notes.labels(), [['money', 2]]);
  assert.deepEqual(await rows({ label: 'money' }), ['Gull: 2']);
  assert.equal(await notes.label(all, 'money', true), 0);
  assert.equal(await notes.label(all, '  ', true), 0);
  assert.equal(await notes.label(all, 'money', false), 2);
  assert.equal((await notes.of('s1.1/m/0-1'))?.text, 'ask them');
  assert.deepEqual(await notes.labels(), []);
  assert.equal(await notes.of('s1.1/m/0-4'), null);
});

test('with a deleted case its notes go too', async () => {
  const { notes } = await opened();
  await notes.keep({ of: 's1.1/m/0-1', kind: 'line', text: 'ask him', labels: [] });
  const db = await openStorage();
  const [note] = (await db.getAll('notes')).filter(({ text }) => text === 'ask him');
  await setDeleted(note!.caseId, 1);
  await purgeDeleted(Date.now());
  assert.deepEqual(
    (await db.getAll('notes')).filter(({ text }) => text === 'ask him'),
    []
  );
});
