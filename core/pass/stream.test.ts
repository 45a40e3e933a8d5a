import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Message } from '../records';
import { makeDatabase } from '../tests/databases';
import { passOver } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const STORES: [name: string, after: string, pragmas: string][] = [
  ['single deletions', 'DELETE FROM sms WHERE _id % 5 = 0', ''],
  ['a long range', 'DELETE FROM sms WHERE _id < 500', ''],
  ['edits', "UPDATE sms SET body = 'now ' || body WHERE _id % 7 = 0", ''],
  ['small pages', 'DELETE FROM sms WHERE _id % 3 = 0', 'PRAGMA page_size=512;'],
  ['wide text', 'DELETE FROM sms WHERE _id % 4 = 0', "PRAGMA encoding='UTF-16le';"]
];

/** What a message says and where it was read, without the support that is judged from a sample. */
function told({ certainty: _, reasons: __, ...message }: Message): string {
  return JSON.stringify(message);
}

for (const [name, after, pragmas] of STORES) {
  test(`a store that streams tells the same as one that is held: ${name}`, async () => {
    const bytes = makeDatabase((db) => {
      db.run(TELEPHONY_SCHEMA);
      insertMessages(db, messages(900, seeded(11)));
      db.run(after);
    }, pragmas);
    const held = await passOver({ 'a.db': bytes });
    const streamed = await passOver({ 'a.db': bytes }, { mostHeld: 100 });
    assert.ok(streamed.events.some(({ type }) => type === 'lines'));
    assert.deepEqual(
      streamed.findings.messages.map(told).sort(),
      held.findings.messages.map(told).sort()
    );
    assert.deepEqual(streamed.findings.stores, held.findings.stores);
    assert.deepEqual(streamed.findings.gaps, held.findings.gaps);
    assert.deepEqual(
      streamed.findings.threads.map(({ id }) => id).sort(),
      held.findings.threads.map(({ id }) => id).sort()
    );
  });
}
