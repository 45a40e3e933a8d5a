import assert from 'node:assert/strict';
import { test } from 'node:test';
import { snapshot } from '../tests/databases';
import { passOver } from '../tests/pass';
import { TELEPHONY_SCHEMA } from '../tests/telephony';

const COUNT = 60;

/** A store that was never written from its log into its file: nothing but the log holds its messages. */
const made = snapshot(
  `PRAGMA page_size=1024; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;
PRAGMA user_version=1;
PRAGMA wal_checkpoint;
${TELEPHONY_SCHEMA}
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${COUNT})
INSERT INTO sms(_id, address, date, type, read, body) SELECT i, '+447700900' || (100 + i % 7),
  1700000000000 + i * 61007, 1 + i % 2, 1, 'wording of number ' || i FROM n;
SNAPSHOT`,
  'SELECT body FROM sms'
);

const DAMAGES: [says: string, damage: (log: Uint8Array) => void][] = [
  ['its page size', (log) => log.set([0, 0, 0, 1], 8)],
  ['another page size', (log) => log.set([0, 0, 0x10, 0], 8)],
  ['its checksum', (log) => log.set([1, 2, 3, 4], 24)],
  ['the checksum of its first page', (log) => log.set([1, 2, 3, 4], 32 + 16)]
];

for (const [says, damage] of DAMAGES) {
  test(`messages of a log that lost ${says} come back`, async () => {
    const log = made.wal!.slice();
    damage(log);
    const { findings } = await passOver({ 'a.db': made.main, 'a.db-wal': log });
    const found = new Set(findings.messages.map(({ body }) => body));
    const expected = made.rows.map((row) => String((row as { body: string }).body));
    assert.equal(expected.length, COUNT);
    assert.deepEqual([...found].sort(), expected.sort());
    assert.ok(findings.messages.every(({ state }) => state === 'recovered'));
    assert.ok(findings.messages.every(({ proofs }) => proofs.every((p) => p.method === 'log')));
  });
}
