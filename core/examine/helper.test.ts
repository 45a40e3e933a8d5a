import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemorySource } from '../host';
import { messageJson, messagesOf } from '../records';
import { makeDatabase } from '../tests/databases';
import { passOver, requestFor } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';
import { HelperThread, type HelperAnswer, type HelperPool, type HelperTask } from './helper';
import { runPass } from './pass';

/** More pages than one thread is left alone with. */
const bytes = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  db.run('CREATE INDEX by_date ON sms(date, address)');
  insertMessages(db, messages(9000, seeded(21)));
  db.run('DELETE FROM sms WHERE _id % 6 = 0 OR _id BETWEEN 4000 AND 4900');
}, 'PRAGMA page_size=512;');

class TestedSource extends MemorySource {
  readonly handle = { name: this.name };
}

/** Helpers in this thread, that get and give nothing but what can be cloned, whenever the pass rests. */
class TestedPool implements HelperPool {
  searched = 0;
  written = 0;
  private readonly queue: (() => void)[] = [];

  constructor(
    readonly size: number,
    private readonly failing: (task: HelperTask) => boolean = () => false
  ) {}

  get(): { ask(task: HelperTask): Promise<HelperAnswer> } {
    const thread = new HelperThread(() => new MemorySource('a.db', bytes));
    return {
      ask: (task) =>
        new Promise((resolve, reject) => {
          // A pass that waits for an answer does not rest.
          setTimeout(() => void this.turn());
          this.queue.push(() => {
            if (this.failing(task)) return reject(new Error('the thread died'));
            const { answer, transfer } = thread.answer(structuredClone(task));
            if (task.type === 'search') this.searched++;
            if (answer.type === 'written') this.written += answer.written.rowids.length;
            resolve(structuredClone(answer, { transfer }));
          });
        })
    };
  }

  /** Does what was asked, and what is asked because of that. */
  async turn(): Promise<void> {
    for (let idle = 0; idle < 3; idle++) {
      if (this.queue.length > 0) idle = 0;
      for (const work of this.queue.splice(0)) work();
      await new Promise((resolve) => setTimeout(resolve));
    }
  }
}

/** Notes of the last pass about helpers. */
let notes: string[] = [];

async function found(helpers: TestedPool): Promise<string[]> {
  notes = [];
  const request = requestFor({}, { helpers, turn: () => helpers.turn() });
  request.input.files = [new TestedSource('a.db', bytes)];
  const records: string[] = [];
  for await (const event of runPass(request)) {
    if (event.type === 'note' && event.note.code === 'helper-failed') notes.push(event.note.text);
    if (event.type === 'batch') records.push(...[...messagesOf(event.batch)].map(messageJson));
    if (event.type === 'found' && event.final)
      records.push(...event.findings.stores.map((store) => JSON.stringify(store)));
  }
  return records.sort();
}

test('helping threads find what one thread finds, in the same words', async () => {
  const { findings } = await passOver({ 'a.db': bytes });
  const expected = [
    ...findings.messages.map(messageJson),
    ...findings.stores.map((store) => JSON.stringify(store))
  ].sort();
  for (const size of [1, 3]) {
    const pool = new TestedPool(size);
    assert.deepEqual(await found(pool), expected);
    assert.ok(pool.searched > 0, 'nothing was searched by a helper');
    assert.deepEqual(notes, []);
  }
});

test('what a dying thread leaves is searched by the pass itself', async () => {
  const expected = await found(new TestedPool(0));
  for (const type of ['open', 'plan', 'search'] as const) {
    assert.deepEqual(await found(new TestedPool(2, (task) => task.type === type)), expected);
    assert.equal(notes.length, 1, type);
    assert.match(notes[0]!, /failed on .* \(the thread died\)\. Its part was done without it/);
  }
});

/** The records of a store that leaves as JSON. */
async function written(helpers: TestedPool): Promise<string[]> {
  const frame = { before: '{', after: '\n' };
  const request = requestFor({}, { helpers, frame, mostHeld: 500, turn: () => helpers.turn() });
  request.input.files = [new TestedSource('a.db', bytes)];
  const parts: Uint8Array[] = [];
  for await (const event of runPass(request))
    if (event.type === 'json') parts.push(...event.records.map(({ bytes }) => bytes));
  return Buffer.concat(parts).toString().split('\n');
}

test('records that helping threads write stand where one thread writes them, also when a thread dies', async () => {
  const expected = await written(new TestedPool(0));
  assert.ok(expected.length > 8000, `${expected.length} records`);
  for (const failing of [undefined, 'table', 'write'] as const) {
    const pool = new TestedPool(2, ({ type }) => type === failing);
    assert.deepEqual(await written(pool), expected);
    assert.equal(pool.written > 1000, failing === undefined, `${pool.written} were written`);
  }
});
