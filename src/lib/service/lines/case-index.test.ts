import { Naming } from '$core/case';
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { OWNER, type Contact, type Findings, type Gap, type Message } from '$core/records';
import { messageRecord } from '../../../../core/tests/records';
import { ADDRESS, findingsOf, keptCase, shownIds, SOMEONE } from '../tests/kept-case';
import type { KeptIndex } from './store-lines';

function message(id: string, told: Partial<Message> = {}): Message {
  const store = id.split('/')[0]!;
  return messageRecord({ id, store, thread: `${store}/t/x`, sender: SOMEONE, ...told });
}

async function indexOf(...all: Findings[]): Promise<KeptIndex> {
  return (await keptCase(all)).keeper.index;
}

function holding(store: string, ...messages: Message[]): Findings {
  return findingsOf(store, { messages });
}

test('a message that several stores hold is one line, the live one before the recovered', async () => {
  const index = await indexOf(
    holding('a', message('a/1', { state: 'recovered' })),
    holding('b', message('b/1')),
    holding('c', message('c/1', { state: 'recovered' }))
  );
  assert.deepEqual(await shownIds(index), ['b/1']);
  assert.deepEqual([index.counts().live, index.counts().recovered], [1, 0]);
  const shown = await index.locateOne('b/1');
  assert.deepEqual(index.alsoIn(shown!).sort(), ['a', 'c']);
  // Each record is still found by its id, and leads to the line that stands for it.
  for (const id of ['a/1', 'c/1']) {
    assert.equal((await index.get(id))?.message.id, id);
    assert.equal((await index.briefs([id])).get(id)?.id, 'b/1');
  }
  assert.equal(await index.get('d/1'), null);
});

test('copies are folded whichever store comes first, and unfolded when one is removed', async () => {
  const { keeper } = await keptCase([
    holding('b.1', message('b.1/1')),
    holding('a.1', message('a.1/1'), message('a.1/2', { body: 'only here' }))
  ]);
  assert.deepEqual(await shownIds(keeper.index), ['a.1/1', 'a.1/2']);
  await keeper.remove('a', 1);
  assert.deepEqual(await shownIds(keeper.index), ['b.1/1']);
  await keeper.refresh();
  assert.deepEqual(await shownIds(keeper.index), ['b.1/1']);
});

test('the same words twice in one store are two lines', async () => {
  assert.deepEqual(await shownIds(await indexOf(holding('a', message('a/1'), message('a/2')))), [
    'a/1',
    'a/2'
  ]);
});

test('what differs in time, words, direction or pictures is another line', async () => {
  const others: Partial<Message>[] = [
    { sentAt: 1_700_000_001_000 },
    { body: 'other words' },
    { direction: 'outgoing' },
    { attachments: ['b/1/a1'] },
    { sentAt: null }
  ];
  for (const told of others) {
    const index = await indexOf(holding('a', message('a/1')), holding('b', message('b/1', told)));
    assert.equal((await index.rows(SOMEONE)).row.length, 2, JSON.stringify(told));
  }
});

test('a store that keeps whole seconds tells the same moment as one that keeps more', async () => {
  const shown = async (a: number, b: number): Promise<number> => {
    const index = await indexOf(
      holding('a', message('a/1', { sentAt: a })),
      holding('b', message('b/1', { sentAt: b }))
    );
    return (await index.rows(SOMEONE)).row.length;
  };
  assert.equal(await shown(1_700_000_000_000, 1_700_000_000_640), 1);
  assert.equal(await shown(1_700_000_000_120, 1_700_000_000_640), 2);
});

test('lines stand in the order of time, those without a time last', async () => {
  const at = (sentAt: number | null, n: number): Message =>
    message(`a/${n}`, { sentAt, body: `${n}` });
  const index = await indexOf(
    holding('a', at(null, 1), at(30, 2), at(10, 3), at(20, 10), at(20, 4))
  );
  assert.deepEqual(await shownIds(index), ['a/3', 'a/4', 'a/10', 'a/2', 'a/1']);
  assert.deepEqual(index.span(), { from: 10, to: 30 });
  assert.equal((await indexOf()).span(), null);
});

test('gaps stand before the line behind them, or after the last one', async () => {
  const gap = (after: string | null, before: string | null): Gap => ({
    store: 'a',
    thread: null,
    count: 1,
    after,
    before,
    from: null,
    to: null,
    reason: 'row number 5 of table sms is missing'
  });
  const index = await indexOf(
    findingsOf('a', {
      messages: [message('a/1'), message('a/2', { body: 'second' })],
      gaps: [gap('a/1', 'a/2'), gap('a/2', null), gap('elsewhere', 'also elsewhere')]
    })
  );
  const { before, after } = index.gapsOf(index.conversation(SOMEONE)!);
  assert.deepEqual([[...before.keys()], [...after.keys()]], [['a/2'], ['a/2']]);
});

test('people are called by the name given in the case, else by the store, else by the address book, else by the number', async () => {
  const contact = { name: 'Runa Aas', phones: ['07700 900101'], emails: [] } as unknown as Contact;
  const { people } = await indexOf(findingsOf('a', { contacts: [contact] }));
  assert.equal(new Naming(people, {}, '').person(SOMEONE), 'Runa Aas');
  assert.equal(new Naming(people, { [SOMEONE]: 'R., by hand' }, '').person(SOMEONE), 'R., by hand');
  const bare = (await indexOf(findingsOf('a', {}))).people;
  const naming = new Naming(bare, {}, '');
  assert.equal(naming.person(SOMEONE), '+44 7700 900101');
  assert.equal(naming.person(null), 'unknown sender');
  assert.equal(naming.person(OWNER), 'owner');
  assert.equal(new Naming(bare, {}, 'the treasurer').person(OWNER), 'the treasurer');
  assert.equal(naming.address('p:nobody'), '');
});

test('a group is called by its title, else by its people', async () => {
  const called = async (title: string | null): Promise<string> => {
    const thread = {
      id: 'a/t/g',
      store: 'a',
      title,
      participants: [`p:${ADDRESS}`, 'p:+447700900102'],
      group: true
    };
    const { people, conversations } = await indexOf(findingsOf('a', { threads: [thread] }));
    return new Naming(people, { 'p:+447700900102': 'Odd' }, '').correspondent(conversations[0]!);
  };
  assert.equal(await called('Crew'), 'Crew');
  assert.equal(await called(null), '+44 7700 900101, Odd');
});
