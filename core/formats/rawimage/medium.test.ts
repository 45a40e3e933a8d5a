import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { finish, makeDatabase } from '../../tests/databases';
import { passOver } from '../../tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { scanMedium } from './scan';

const sent = messages(600, seeded(21));
const store = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, sent);
  db.run('DELETE FROM sms WHERE _id % 8 = 0');
});

/** A medium of noise with parts laid into it. */
function medium(size: number, parts: [number, Uint8Array][]): Uint8Array {
  const random = seeded(77);
  const bytes = Uint8Array.from({ length: size }, () => Math.floor(random() * 256));
  for (const [at, part] of parts) bytes.set(part, at);
  return bytes;
}

test('a database is found wherever it begins', async () => {
  for (const at of [0, 512, 512 * 33, 65536 + 513, 70_001]) {
    const image = medium(store.length + 200_000, [[at, store]]);
    // At the very beginning it is simply a database with bytes behind it.
    const { findings } = await passOver({ 'x.img': image }, { depth: 'whole' });
    const live = findings.messages.filter(({ state }) => state === 'live');
    assert.equal(live.length, sent.filter(({ id }) => id % 8 !== 0).length, `at ${at}`);
    for (const { proofs } of live) {
      const { path, offset } = proofs[0]!;
      assert.equal(path, 'x.img');
      assert.ok(offset >= at && offset < at + store.length);
    }
  }
});

test('two databases of one medium are two stores, each with its place', async () => {
  const image = medium(store.length * 2 + 300_000, [
    [51_200, store],
    [51_200 + store.length + 102_400, store]
  ]);
  const { findings } = await passOver({ 'x.img': image }, { depth: 'whole' });
  const paths = findings.stores.map(({ path }) => path);
  assert.deepEqual(paths, ['x.img at 51200', `x.img at ${51_200 + store.length + 102_400}`]);
});

test('depth freed leaves a medium alone; noise holds nothing', async () => {
  const image = medium(store.length + 400_000, [[300_032, store]]);
  const { findings } = await passOver({ 'x.img': image });
  assert.equal(findings.messages.length, 0);
  const noise = await passOver({ 'y.img': medium(400_000, []) }, { depth: 'whole' });
  assert.equal(noise.findings.messages.length, 0);
});

test('lone pages are read by the tables of a database of the same case', async () => {
  const page = store.subarray(4096 * 6, 4096 * 7);
  const { findings } = await passOver(
    { 'a.db': store, 'b.bin': medium(200_000, [[512 * 9, page]]) },
    { depth: 'whole' }
  );
  const carved = findings.messages.filter((m) => m.proofs.some(({ path }) => path === 'b.bin'));
  const bodies = new Set(sent.map(({ body }) => body));
  assert.ok(carved.length > 10);
  assert.ok(carved.every(({ body, state }) => bodies.has(body) && state === 'recovered'));
  assert.ok(carved.every(({ proofs }) => proofs.every(({ method }) => method === 'carved')));
});

test('scanning never throws, and finds nothing in what is no page', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 5000 }), (bytes) => {
      const finds = finish(scanMedium(new MemorySource('x', bytes)));
      assert.deepEqual(finds.pages, []);
    })
  );
});
