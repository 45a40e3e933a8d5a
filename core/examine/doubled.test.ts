import assert from 'node:assert/strict';
import { test } from 'node:test';
import { makeDatabase } from '../tests/databases';
import { passOver, type PassResult } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const PAGE = 4096;
const LEAF = 0x0d;

function leavesOf(bytes: Uint8Array): number[] {
  const leaves: number[] = [];
  for (let at = PAGE; at < bytes.length; at += PAGE) if (bytes[at] === LEAF) leaves.push(at);
  return leaves;
}

function twice(list: readonly string[]): string[] {
  return list.filter((one, i) => list.indexOf(one) !== i);
}

test('where a page of a damaged store stands twice no two messages have one id', async () => {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(400, seeded(9)));
  });
  const leaves = leavesOf(bytes);
  // The copy behind the page that it is of, before it, and where the first page is lost as well.
  const damages: [from: number, to: number, isHeadless: boolean][] = [
    [leaves[5]!, leaves[9]!, false],
    [leaves[9]!, leaves[5]!, false],
    [leaves[5]!, leaves[9]!, true]
  ];
  for (const [from, to, isHeadless] of damages)
    for (const mostHeld of [undefined, 50]) {
      const damaged = bytes.slice();
      damaged.set(bytes.subarray(from, from + PAGE), to);
      if (isHeadless) damaged.fill(0, 0, 100);
      const extra = mostHeld === undefined ? {} : { mostHeld };
      const result = await passOver({ 'a.db': damaged }, extra);
      const ids = result.findings.messages.map(({ id }) => id);
      assert.ok(ids.length > 350, String(ids.length));
      assert.deepEqual(twice(ids), []);
      assert.ok(notesOf(result).some((text) => /stand on another page too/.test(text)));
    }
});

function notesOf({ events }: PassResult): string[] {
  return events.flatMap((event) => (event.type === 'note' ? [event.note.text] : []));
}

test('no proof ends behind its file, wherever that was cut', async () => {
  const sent = messages(60, seeded(3)).map((message, i) =>
    i % 7 === 0 ? { ...message, body: message.body + ' again and again'.repeat(600) } : message
  );
  const random = seeded(5);
  for (const pragmas of ['', 'PRAGMA page_size=1024;']) {
    const bytes = makeDatabase((db) => {
      db.run(TELEPHONY_SCHEMA);
      insertMessages(db, sent);
      db.run('DELETE FROM sms WHERE _id % 5 = 0');
    }, pragmas);
    for (let i = 0; i < 25; i++) {
      const cut = bytes.subarray(0, Math.floor(bytes.length * (0.2 + 0.8 * random())));
      const { findings } = await passOver({ 'a.db': cut });
      for (const { id, proofs, body } of findings.messages) {
        assert.ok(!body.includes('\0'), `${id} of ${cut.length}`);
        for (const { offset, length } of proofs)
          assert.ok(offset + length <= cut.length, `${id} of ${cut.length}: ${offset} ${length}`);
      }
    }
  }
});
