import assert from 'node:assert/strict';
import { test } from 'node:test';
import { makeDatabase } from '../tests/databases';
import { mutations } from '../tests/mutate';
import { passOver } from '../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';

const base = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(50, seeded(2)));
  db.run('DELETE FROM sms WHERE _id % 4 = 0');
}, 'PRAGMA page_size=1024;');

for (const [name, mutate] of Object.entries(mutations)) {
  test(`files damaged by ${name} end well, and every record has its proof`, async () => {
    const random = seeded(31);
    for (let run = 0; run < 25; run++) {
      const bytes = mutate(base, random);
      const depth = run % 2 === 0 ? 'freed' : 'whole';
      const { findings } = await passOver({ 'a.db': bytes }, { depth });
      for (const { proofs } of findings.messages) {
        assert.ok(proofs.length > 0);
        for (const { offset, length } of proofs)
          assert.ok(offset >= 0 && length > 0 && offset + length <= bytes.length);
      }
    }
  });
}
