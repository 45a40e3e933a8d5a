import assert from 'node:assert/strict';
import { test } from 'node:test';
import { EVERYTHING, scopeOf, type Kind, type Scope } from '$core/examine';
import type { Call, Findings, Message } from '$core/records';
import { messageRecord } from '../../../../core/tests/records';
import { keptNotes, keepNotes } from '../../storage/notes';
import { openStorage } from '../../storage/open';
import { purgeSource } from '../../storage/evidence';
import { putCase } from '../../storage/casebook';
import { Keeper } from './keeping';
import { Shelf } from '../evidence/shelf';
import { findingsOf, keptCase, shownIds, SOMEONE } from '../tests/kept-case';

const STORE = 's1.aa';

// What the browser says of the room that is left; nothing, where it does not tell.
Object.defineProperty(globalThis, 'navigator', {
  value: { storage: { estimate: () => Promise.resolve({}) } },
  configurable: true
});

function message(n: number, told: Partial<Message> = {}): Message {
  const place = { id: `${STORE}/m/${n}`, store: STORE, thread: `${STORE}/t/x`, sender: SOMEONE };
  return messageRecord({ ...place, sentAt: 1000 * n, body: `line ${n}`, ...told });
}

function call(n: number): Call {
  return {
    id: `${STORE}/c/${n}`,
    store: STORE,
    person: SOMEONE,
    direction: 'incoming',
    at: 1000 * n,
    seconds: 5,
    state: 'live',
    certainty: 100,
    proofs: []
  };
}

const whole = scopeOf(EVERYTHING, 'freed');
const only = (...kinds: Kind[]): Scope => ({ ...whole, kinds });
const both = findingsOf(STORE, {
  messages: [message(1), message(2, { state: 'recovered', certainty: 90 })],
  calls: [call(1)]
});

interface Second {
  what: string;
  findings: Findings;
  scope: Scope;
  messages: number[];
  calls: number;
}

const SECONDS: Second[] = [
  {
    what: 'only calls',
    findings: findingsOf(STORE, { calls: [call(1), call(2)] }),
    scope: only('calls'),
    messages: [1, 2],
    calls: 2
  },
  {
    what: 'some days',
    findings: findingsOf(STORE, { messages: [message(2), message(3)] }),
    scope: { ...whole, from: 1500, to: 9000 },
    messages: [1, 2, 3],
    calls: 1
  },
  {
    what: 'less deep',
    findings: findingsOf(STORE, { messages: [message(1)], calls: [call(1)] }),
    scope: scopeOf(EVERYTHING, 'indexed'),
    messages: [1, 2],
    calls: 1
  },
  {
    what: 'all of it, deeper',
    findings: findingsOf(STORE, { messages: [message(1), message(4)], calls: [] }),
    scope: scopeOf(EVERYTHING, 'whole'),
    messages: [1, 4],
    calls: 0
  }
];

for (const { what, findings, scope, messages, calls } of SECONDS)
  test(`a second examination of ${what} takes nothing away that it did not look for`, async () => {
    const { keeper, record } = await keptCase([]);
    await keeper.keep('s1', both, record, { isFinal: true, scope: whole });
    const before = await keeper.index.get(`${STORE}/m/2`);
    await keeper.keep('s1', findings, record, { isFinal: true, scope });
    const { index } = await Keeper.open(record.id);
    assert.deepEqual(
      await shownIds(index),
      messages.map((n) => `${STORE}/m/${n}`)
    );
    assert.equal(index.calls.length, calls);
    const kept = await index.get(`${STORE}/m/2`);
    if (messages.includes(2)) assert.equal(kept!.line, before!.line);
    if (what === 'only calls') assert.equal(kept!.message.state, 'recovered');
    const { counts } = index.stores[0]!.record.facts;
    if (what !== 'all of it, deeper')
      assert.equal(counts.live + counts.recovered, messages.length + calls);
  });

test('a narrow examination after a narrow one keeps what both found, and a wide one replaces them', async () => {
  const { keeper, record } = await keptCase([]);
  const calls = findingsOf(STORE, { calls: [call(1)] });
  const lines = findingsOf(STORE, { messages: [message(1)] });
  await keeper.keep('s1', calls, record, { isFinal: true, scope: only('calls') });
  await keeper.keep('s1', lines, record, { isFinal: true, scope: only('messages') });
  assert.equal(keeper.index.calls.length, 1);
  assert.deepEqual(await shownIds(keeper.index), [`${STORE}/m/1`]);
  await keeper.keep('s1', both, record, { isFinal: true, scope: whole });
  assert.deepEqual(await shownIds(keeper.index), [`${STORE}/m/1`, `${STORE}/m/2`]);
});

test('a source that is removed comes back with its lines; its number is never given to other evidence', async () => {
  const { keeper, record } = await keptCase([]);
  await putCase({ ...record, lastSource: 0 });
  const shelf = new Shelf(record.id);
  const add = async (name: string, text: string): Promise<string> => {
    const blob = new Blob([text]);
    const added = await shelf.add(name, [{ path: name, blob }], () => undefined);
    assert.ok(added.ok);
    return added.source.id;
  };
  const first = await add('one.txt', 'bytes of one');
  assert.equal(first, 's1');
  await keeper.keep('s1', both, record, { isFinal: true, scope: whole });
  await keepNotes([
    { caseId: record.id, of: `${STORE}/m/1`, kind: 'line', text: 'seen', labels: [], changedAt: 1 }
  ]);
  await keeper.remove('s1', 5);
  assert.deepEqual(await shownIds(keeper.index), []);
  assert.deepEqual(await shownIds((await Keeper.open(record.id)).index), []);
  assert.equal((await shelf.sources()).length, 0);
  await keeper.restore('s1');
  assert.deepEqual(await shownIds(keeper.index), [`${STORE}/m/1`, `${STORE}/m/2`]);

  const source = (await shelf.get('s1'))!;
  await keeper.remove('s1', 6);
  const kept = (await (await openStorage()).get('cases', record.id))!;
  await putCase({ ...kept, removedSources: { [source.sum!]: 's1' } });
  await purgeSource(source);
  assert.equal(await add('two.txt', 'other bytes'), 's2');
  assert.equal(await add('again.txt', 'bytes of one'), 's1');
  assert.equal((await keptNotes(record.id)).length, 1);
  assert.equal(await add('three.txt', 'third bytes'), 's3');
});
