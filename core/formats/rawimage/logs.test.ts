import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemorySource } from '../../host';
import { snapshot, type Snapshot } from '../../tests/databases';
import { passOver } from '../../tests/pass';
import { seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { likeness } from './logs';

const random = seeded(41);

function noise(length: number): Uint8Array {
  return Uint8Array.from({ length }, () => Math.floor(random() * 256));
}

function joined(...parts: Uint8Array[]): Uint8Array {
  return Uint8Array.from(parts.flatMap((part) => [...part]));
}

const numbers = (from: number, to: number): string =>
  `WITH RECURSIVE n(i) AS (SELECT ${from} UNION ALL SELECT i + 1 FROM n WHERE i < ${to})
INSERT INTO sms(_id, address, date, type, read, body) SELECT i, '+447700900' || (100 + i % 7),
  1700000000000 + i * 61007, 1 + i % 2, 1, 'wording of number ' || i FROM n;`;

/** Rows that the file holds, and such as its log alone holds, with some deleted in between. */
const LOGGED = `PRAGMA page_size=1024; PRAGMA secure_delete=OFF; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;
${TELEPHONY_SCHEMA}
${numbers(1, 120)}
PRAGMA wal_checkpoint(TRUNCATE);
${numbers(121, 180)}
DELETE FROM sms WHERE _id % 9 = 0;
${numbers(181, 190)}
SNAPSHOT`;

const QUERY = 'SELECT body FROM sms';

function bodiesOf(made: Snapshot): string[] {
  return made.rows.map((row) => String((row as { body: string }).body)).sort();
}

async function read(
  image: Uint8Array
): Promise<{ live: string[]; freed: string[]; stores: number }> {
  const { findings } = await passOver({ 'x.img': image }, { depth: 'whole' });
  const bodies = (isLive: boolean): string[] =>
    findings.messages
      .filter(({ state }) => (state === 'live') === isLive)
      .map(({ body }) => body ?? '')
      .sort();
  return { live: bodies(true), freed: bodies(false), stores: findings.stores.length };
}

const deleted = Array.from({ length: 180 }, (_, i) => i + 1)
  .filter((i) => i % 9 === 0)
  .map((i) => `wording of number ${i}`)
  .sort();

const made = snapshot(LOGGED, QUERY);

const LAYOUTS: [says: string, parts: () => Uint8Array[]][] = [
  ['behind its database', () => [noise(5120), made.main, noise(3000), made.wal!, noise(4096)]],
  ['before its database', () => [noise(512), made.wal!, noise(700), made.main, noise(4096)]],
  ['right behind it', () => [noise(1024), made.main, made.wal!]]
];

for (const [says, parts] of LAYOUTS) {
  test(`a log that lies in a medium ${says} is laid over it`, async () => {
    const { live, freed, stores } = await read(joined(...parts()));
    assert.deepEqual(live, bodiesOf(made));
    assert.deepEqual(freed, deleted);
    assert.equal(stores, 1);
  });
}

test('each log of a medium goes to the database whose pages it goes on from', async () => {
  const other = snapshot(LOGGED.replaceAll('wording of number', 'told in line'), QUERY);
  const parts = [noise(900), other.wal!, made.main, noise(600), other.main, noise(64), made.wal!];
  const { live, stores } = await read(joined(...parts));
  assert.deepEqual(live, [...bodiesOf(made), ...bodiesOf(other)].sort());
  assert.equal(stores, 2);
});

test('a log is not laid over the database of another store of the same app', async () => {
  const other = snapshot(LOGGED.replaceAll('wording of number', 'told in line'), QUERY);
  const { live, stores } = await read(joined(noise(900), made.wal!, noise(300), other.main));
  const told = live.filter((body) => body.startsWith('told'));
  assert.deepEqual(told, Array.from({ length: 120 }, (_, i) => `told in line ${i + 1}`).sort());
  assert.equal(stores, 2);
});

test('what a log holds without its database is read, as far as it goes', async () => {
  const cut = made.wal!.subarray(0, made.wal!.length - 500);
  const { live, freed } = await read(joined(noise(2048), cut, noise(5000)));
  const all = new Set([...bodiesOf(made), ...deleted]);
  assert.ok(live.length > 40);
  assert.ok([...live, ...freed].every((body) => all.has(body)));
});

test('pages of a journal in a medium are no deletions where their rows are live', async () => {
  const changed = snapshot(
    `PRAGMA page_size=1024; PRAGMA secure_delete=OFF; PRAGMA journal_mode=PERSIST;
${TELEPHONY_SCHEMA}
${numbers(1, 200)}
DELETE FROM sms WHERE _id % 9 = 0;
SNAPSHOT`,
    QUERY
  );
  const { live, freed } = await read(
    joined(noise(2048), changed.main, noise(777), changed.journal!)
  );
  assert.deepEqual(live, bodiesOf(changed));
  const gone = new Set(freed);
  assert.ok(bodiesOf(changed).every((body) => !gone.has(body)));
  assert.ok(deleted.every((body) => gone.has(body)));
});

test('pages that share no byte speak against a database, and first pages say nothing', () => {
  const size = 512;
  const bytes = new Uint8Array(3 * size).fill(7, 0, 2 * size).fill(9, 2 * size);
  const source = new MemorySource('x', bytes);
  const frame = (page: number, at: number) => {
    const offset = at * size;
    return { index: at, page, offset, commitSize: 0, valid: true };
  };
  const alike = (...frames: ReturnType<typeof frame>[]): number =>
    likeness({ source, pageSize: size, frames, committed: 0 }, () => bytes.subarray(0, size));
  assert.equal(alike(frame(1, 0)), 0);
  assert.equal(alike(frame(2, 1)), 1);
  assert.equal(alike(frame(2, 2)), -1);
  assert.equal(alike(frame(2, 1), frame(3, 2), frame(1, 0)), 0);
});
