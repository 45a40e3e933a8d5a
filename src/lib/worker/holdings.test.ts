import assert from 'node:assert/strict';
import { test } from 'node:test';
import { OWNER, type Contact, type Gap, type Message, type Thread } from '../../../core/records';
import { messageRecord } from '../../../core/tests/records';
import type { ChunkRecord } from '../storage/schema';
import { Holdings, Naming } from './holdings';

const ADDRESS = '+447700900101';

function message(id: string, told: Partial<Message> = {}): Message {
  const store = id.split('/')[0]!;
  return messageRecord({ id, store, thread: `${store}/t/x`, sender: `p:${ADDRESS}`, ...told });
}

function thread(id: string, told: Partial<Thread> = {}): Thread {
  const participants = [`p:${ADDRESS}`];
  return { id, store: id.split('/')[0]!, title: null, participants, group: false, ...told };
}

function chunk(told: Partial<ChunkRecord>): ChunkRecord {
  return {
    people: [{ id: `p:${ADDRESS}`, name: null, addresses: [ADDRESS], owner: false }],
    threads: [],
    messages: [],
    lines: (told.messages ?? []).map((_, i) => i + 1),
    attachments: [],
    calls: [],
    contacts: [],
    gaps: [],
    ...told
  } as ChunkRecord;
}

function lines(holdings: Holdings): string[] {
  return holdings.of(`p:${ADDRESS}`).map(({ message: { id }, also }) => [id, ...also].join(' '));
}

test('a message that several stores hold is one line, the live one before the recovered', () => {
  const holdings = new Holdings([
    chunk({ threads: [thread('a/t/x')], messages: [message('a/1', { state: 'recovered' })] }),
    chunk({ threads: [thread('b/t/x')], messages: [message('b/1')] }),
    chunk({ threads: [thread('c/t/x')], messages: [message('c/1', { state: 'recovered' })] })
  ]);
  assert.deepEqual(lines(holdings), ['b/1 a c']);
  assert.equal(holdings.counts().live, 1);
  assert.equal(holdings.counts().recovered, 0);
  // Each record is still found by its id.
  assert.ok(holdings.get('a/1') && holdings.get('c/1'));
});

test('the same words twice in one store are two lines', () => {
  const holdings = new Holdings([
    chunk({ threads: [thread('a/t/x')], messages: [message('a/1'), message('a/2')] })
  ]);
  assert.deepEqual(lines(holdings), ['a/1', 'a/2']);
});

test('what differs in time, words, direction or pictures is another line', () => {
  const others: Partial<Message>[] = [
    { sentAt: 1_700_000_000_001 },
    { body: 'other words' },
    { direction: 'outgoing' },
    { attachments: ['b/1/a1'] },
    { sentAt: null }
  ];
  for (const told of others) {
    const holdings = new Holdings([
      chunk({ threads: [thread('a/t/x')], messages: [message('a/1')] }),
      chunk({ threads: [thread('b/t/x')], messages: [message('b/1', told)] })
    ]);
    assert.equal(holdings.of(`p:${ADDRESS}`).length, 2, JSON.stringify(told));
  }
});

test('lines stand in the order of time, those without a time last', () => {
  const at = (sentAt: number | null, n: number): Message =>
    message(`a/${n}`, { sentAt, body: `${n}` });
  const holdings = new Holdings([
    chunk({ threads: [thread('a/t/x')], messages: [at(null, 1), at(30, 2), at(10, 3), at(20, 4)] })
  ]);
  assert.deepEqual(lines(holdings), ['a/3', 'a/4', 'a/2', 'a/1']);
  assert.deepEqual(holdings.span(), { from: 10, to: 30 });
  assert.equal(new Holdings([]).span(), null);
});

test('gaps stand before the line behind them, or after the last one', () => {
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
  const holdings = new Holdings([
    chunk({
      threads: [thread('a/t/x')],
      messages: [message('a/1'), message('a/2', { body: 'second' })],
      gaps: [gap('a/1', 'a/2'), gap('a/2', null), gap('elsewhere', 'also elsewhere')]
    })
  ]);
  const { before, after } = holdings.gapsOf(`p:${ADDRESS}`);
  assert.deepEqual([[...before.keys()], [...after.keys()]], [['a/2'], ['a/2']]);
});

test('chunks of the first version of the storage are read too', () => {
  const old = chunk({ threads: [thread('a/t/x')], messages: [message('a/1')] });
  for (const field of ['calls', 'contacts', 'gaps'] as const) Reflect.deleteProperty(old, field);
  const holdings = new Holdings([old]);
  assert.deepEqual([holdings.calls, holdings.contacts, holdings.gaps], [[], [], []]);
  assert.deepEqual(lines(holdings), ['a/1']);
});

test('people are called by the name given in the case, else by the store, else by the address book, else by the number', () => {
  const contact = { name: 'Runa Aas', phones: ['07700 900101'], emails: [] } as unknown as Contact;
  const unnamed = new Holdings([chunk({ threads: [thread('a/t/x')], contacts: [contact] })]);
  const bare = new Holdings([chunk({ threads: [thread('a/t/x')] })]);
  const id = `p:${ADDRESS}`;
  assert.equal(new Naming(unnamed.people, {}, '').person(id), 'Runa Aas');
  assert.equal(new Naming(unnamed.people, { [id]: 'R., by hand' }, '').person(id), 'R., by hand');
  const naming = new Naming(bare.people, {}, '');
  assert.equal(naming.person(id), '+44 7700 900101');
  assert.equal(naming.person(null), 'unknown sender');
  assert.equal(naming.person(OWNER), 'owner');
  assert.equal(new Naming(bare.people, {}, 'the treasurer').person(OWNER), 'the treasurer');
  assert.equal(naming.address('p:nobody'), '');
});

test('a group is called by its title, else by its people', () => {
  const participants = [`p:${ADDRESS}`, 'p:+447700900102'];
  const rows = (title: string | null): Holdings =>
    new Holdings([chunk({ threads: [thread('a/t/g', { participants, group: true, title })] })]);
  const called = (holdings: Holdings): string =>
    new Naming(holdings.people, { 'p:+447700900102': 'Odd' }, '').correspondent(
      holdings.correspondents[0]!
    );
  assert.equal(called(rows('Crew')), 'Crew');
  assert.equal(called(rows(null)), '+44 7700 900101, Odd');
});
