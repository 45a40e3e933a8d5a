import assert from 'node:assert/strict';
import { test } from 'node:test';
import { isCut, LOST_MARK } from '../records';
import { makeDatabase } from '../tests/databases';
import { passOver } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const SIZE = 1024;
/** The message whose text goes on over several overflow pages. */
const LONG = 40;

const sent = messages(80, seeded(5)).map((message) =>
  message.id === LONG ? { ...message, body: 'the ferry goes at nine, '.repeat(140) } : message
);

for (const encoding of ['UTF-8', 'UTF-16le']) {
  const store = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, sent);
  }, `PRAGMA page_size=${SIZE}; PRAGMA encoding='${encoding}';`);
  const body = sent[LONG - 1]!.body;
  const text = Buffer.from(body, encoding === 'UTF-8' ? 'utf8' : 'utf16le');

  /** Pages of the text's chain: each begins with the number of the next, and holds a piece of the text. */
  const chain = Array.from({ length: store.length / SIZE }, (_, i) => i).filter((i) => {
    const piece = Buffer.from(store.subarray(i * SIZE + 4, i * SIZE + 200));
    return store[i * SIZE] === 0 && text.includes(piece);
  });

  const damages: [says: string, page: number, damage: (page: Uint8Array) => void][] = [
    ['noise', chain[1]!, (page) => page.forEach((_, i) => (page[i] = (i * 73 + 41) & 0xff))],
    ['a link out of the file', chain[1]!, (page) => page.set([0x7f, 0, 0, 0])],
    ['zeros', chain[1]!, (page) => page.fill(0)]
  ];
  for (const [says, at, damage] of damages) {
    test(`a live ${encoding} text is told up to where its overflow pages hold ${says}`, async () => {
      assert.ok(chain.length > 2);
      const bytes = store.slice();
      damage(bytes.subarray(at * SIZE, (at + 1) * SIZE));
      const { findings } = await passOver({ 'a.db': bytes });
      assert.equal(findings.messages.length, sent.length);
      const whole = new Set(sent.map((message) => message.body));
      const [cut, ...more] = findings.messages.filter((message) => !whole.has(message.body ?? ''));
      assert.deepEqual(more, []);
      const told = cut!.body!;
      assert.ok(isCut(cut!) && findings.messages.every((m) => m === cut || !isCut(m)));
      assert.ok(told.endsWith(LOST_MARK) && body.startsWith(told.slice(0, -1)));
      assert.ok(told.length > 200);
      assert.deepEqual([cut!.state, cut!.certainty], ['live', 80]);
      assert.match(cut!.reasons.at(-1)!, /^\d+ bytes at the end are lost$/);
    });
  }
}
