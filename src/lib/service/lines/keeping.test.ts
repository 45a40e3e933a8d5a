import assert from 'node:assert/strict';
import { test } from 'node:test';
import { BatchBuilder, type Findings, type Message } from '$core/records';
import { messageRecord } from '../../../../core/tests/records';
import { newCase, putCase } from '../../storage/casebook';
import { openStorage } from '../../storage/open';
import type { ChunkRecord } from '../../storage/schema';
import { Keeper } from './keeping';
import { moveChunks } from './moving';
import { findingsOf, keptCase, shownIds, SOMEONE } from '../tests/kept-case';

function message(n: number, told: Partial<Message> = {}): Message {
  const place = { id: `s1.1/m/${n}`, store: 's1.1', thread: 's1.1/t/x', sender: SOMEONE };
  return messageRecord({ ...place, sentAt: 1000 * n, body: `line ${n}`, ...told });
}

function holding(...messages: Message[]): Findings {
  return findingsOf('s1.1', { messages });
}

async function numbers(keeper: Keeper): Promise<Record<string, number>> {
  const found: Record<string, number> = {};
  for (const id of await shownIds(keeper.index)) {
    const held = await keeper.index.get(id);
    found[id] = held!.line;
  }
  return found;
}

test('records come back as they were found, from a storage that is opened again', async () => {
  const long = Array.from({ length: 9000 }, (_, i) =>
    message(i, i % 100 === 0 ? { subject: `tide ${i}`, readAt: 5, reasons: [`row ${i}`] } : {})
  );
  const { record } = await keptCase([holding(...long)]);
  const { index } = await Keeper.open(record.id);
  await index.loadAll();
  const { store, row } = await index.rows(SOMEONE);
  assert.equal(row.length, long.length);
  for (const at of [0, 99, 100, 4095, 4096, 8100, 8999]) {
    const { message, line } = await index.held({ store: store[at]!, row: row[at]! });
    assert.deepEqual(message, long[at]);
    assert.equal(line, at + 1);
  }
});

test('messages that come in batches are kept with the rest, by time and not as they came', async () => {
  const { keeper, record } = await keptCase([]);
  const builder = new BatchBuilder('s1.1');
  const all = Array.from({ length: 300 }, (_, i) => message((i * 7) % 300));
  for (const [i, one] of all.entries()) {
    builder.add(one);
    if (i % 90 === 89) await keeper.add('s1', builder.take());
  }
  const rest = findingsOf('s1.1', { messages: all.slice(270) });
  await keeper.keep('s1', rest, record, { isFinal: true });
  const { index } = await Keeper.open(record.id);
  const found: Message[] = [];
  for await (const one of index.stores[0]!.messages()) found.push(one);
  assert.deepEqual(
    found,
    [...all].sort((a, b) => a.sentAt! - b.sentAt!)
  );
});

test('of a store whose end did not come nothing stays', async () => {
  const { keeper, record } = await keptCase([holding(message(1))]);
  const builder = new BatchBuilder('s1.2');
  builder.add(message(2, { id: 's1.2/m/2', store: 's1.2' }));
  await keeper.add('s1', builder.take());
  await keeper.forget();
  const db = await openStorage();
  const runs = (await db.getAllKeys('origins')).filter(([caseId]) => caseId === record.id);
  assert.deepEqual(
    runs.map(([, , store]) => store),
    ['s1.1']
  );
  assert.deepEqual(await shownIds(keeper.index), ['s1.1/m/1']);
});

test('a line keeps its number when its store is examined again; later finds get the next ones', async () => {
  const { keeper, record } = await keptCase([holding(message(1), message(3))]);
  assert.deepEqual(await numbers(keeper), { 's1.1/m/1': 1, 's1.1/m/3': 2 });
  const early = holding(message(1), message(2), message(3));
  await keeper.keep('s1', early, record, { isFinal: false });
  assert.deepEqual(await numbers(keeper), { 's1.1/m/1': 1, 's1.1/m/2': 0, 's1.1/m/3': 2 });
  const again = await keeper.keep('s1', early, record, { isFinal: true });
  assert.deepEqual(await numbers(keeper), { 's1.1/m/1': 1, 's1.1/m/2': 3, 's1.1/m/3': 2 });
  assert.equal(again.lastLine, 3);
});

test('what a pass wrote before it was cut off is cleared away, and what it would have replaced stays', async () => {
  const { record } = await keptCase([holding(message(1))]);
  const db = await openStorage();
  const parts = await db.getAll('texts');
  const whole = parts.find(({ caseId }) => caseId === record.id)!;
  await db.put('texts', { ...whole, run: whole.run + 5 });
  const keeper = await Keeper.open(record.id);
  assert.deepEqual(await shownIds(keeper.index), ['s1.1/m/1']);
  await keeper.tidy();
  const left = (await db.getAllKeys('texts')).filter(([caseId]) => caseId === record.id);
  assert.deepEqual(
    left.map(([, , , run]) => run),
    [whole.run]
  );
});

/** Messages as the versions before kept them. */
function chunk(caseId: string, part: number, messages: Message[], lines: number[]): ChunkRecord {
  const { threads, people } = holding();
  return {
    caseId,
    sourceId: 's1',
    store: 's1.1',
    part,
    threads: part === 0 ? threads : [],
    people: part === 0 ? people : [],
    messages,
    lines,
    attachments: [],
    calls: [],
    contacts: []
  };
}

test('a case of an earlier version of the storage is moved with its line numbers, once', async () => {
  const record = { ...newCase('Old', '', 'Europe/Oslo'), lastLine: 7 };
  await putCase(record);
  const db = await openStorage();
  const old = message(2);
  // The first versions knew less of a message.
  for (const field of ['location', 'purgeAt'] as const) Reflect.deleteProperty(old, field);
  await db.put('chunks', chunk(record.id, 0, [message(1)], [7]));
  await db.put('chunks', chunk(record.id, 1, [old], [4]));
  const keeper = await Keeper.open(record.id);
  const moved = await moveChunks(keeper, record);
  assert.deepEqual(await numbers(keeper), { 's1.1/m/1': 7, 's1.1/m/2': 4 });
  assert.deepEqual((await keeper.index.get('s1.1/m/2'))?.message, message(2));
  assert.equal(moved.lastLine, 7);
  assert.deepEqual(await db.getAllKeysFromIndex('chunks', 'case', record.id), []);
  const [{ run } = { run: 0 }] = (await db.getAll('stores')).filter((s) => s.caseId === record.id);
  await moveChunks(keeper, moved);
  const [again] = (await db.getAll('stores')).filter((s) => s.caseId === record.id);
  assert.equal(again?.run, run);
});

test('an index of an earlier version, which knew nothing of joins, is worked out anew once', async () => {
  const { record } = await keptCase([holding(message(1), message(2, { direction: 'outgoing' }))]);
  const db = await openStorage();
  const index = (await db.get('indexes', record.id))!;
  const { joined: _, shared: __, ...before } = index;
  const conversations = before.conversations.map(({ isAnswered: ___, ...row }) => row);
  await db.put('indexes', { ...before, conversations } as typeof index);
  const keeper = await Keeper.open(record.id);
  assert.equal(keeper.index.conversations[0]!.isAnswered, true);
  assert.equal((await db.get('indexes', record.id))!.joined, undefined, 'another tab may own it');
  await keeper.tidy();
  assert.deepEqual((await db.get('indexes', record.id))!.joined?.individuals, []);
});
