import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemoryScratch, MemorySource } from '../bytes';
import { makeDatabase } from '../tests/databases';
import { pngOf } from '../tests/production-case';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../tests/telephony';
import { glanceAt } from '.';

/** Bytes that look random, the same in each run. */
function noise(length: number): Uint8Array {
  const next = seeded(7);
  return Uint8Array.from({ length }, () => Math.floor(next() * 256));
}

const store = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(60, seeded(2)));
});

const CASES: [name: string, bytes: Uint8Array, says: RegExp | null, worth: boolean][] = [
  ['provider.db', store, null, true],
  ['fish.db', makeDatabase((db) => db.run('CREATE TABLE fish(a)')), /no|without/, true],
  ['zeros.bin', new Uint8Array(9000), /unknown kind/, true],
  ['noise.bin', noise(30_000), /look random/, false],
  ['boat.png', pngOf(20, 20, 1), /a picture/, false],
  ['notes.txt', Buffer.from('The tea urn is haunted.'), /a text file/, false],
  ['nothing.db', new Uint8Array(0), /is empty/, false]
];
for (const [name, bytes, says, worth] of CASES)
  test(`a look at ${name}: ${worth ? 'worth a pass' : 'nothing to examine'}`, async () => {
    const input = { id: 's1', name, files: [new MemorySource(name, bytes)] };
    const opening = { keys: [], scratch: () => new MemoryScratch() };
    const glance = await glanceAt(input, opening, 'Etc/UTC', [], async () => undefined);
    assert.equal(glance.worth, worth);
    if (says === null) assert.equal(glance.says, null);
    else assert.match(glance.says!, says);
  });
