import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { test } from 'node:test';
import { gunzipSync } from 'node:zlib';
import { MemoryScratch, MemorySource } from '../host';
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
  ['noise.bin', noise(30_000), /look random.*searched byte by byte/, true],
  ['image.bin', Buffer.concat([noise(30_001), store]), /database begins at byte 30,001/, true],
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

/** The image that a driver wrote, as long as a larger stick. */
function stick(bytes: number): Uint8Array {
  const kept = new URL('../formats/medium/images/ntfs.img.gz', import.meta.url);
  const image = new Uint8Array(bytes);
  image.set(gunzipSync(readFileSync(kept)));
  return image;
}

for (const [what, bytes, says] of [
  ['a small one by its files', 4 << 20, /NTFS “work”.* with \d+ files and 5 deleted ones/],
  [
    'a large one by what it says of itself',
    65 << 20,
    /^An image of a medium: NTFS “work”.*listed when it is examined\.$/
  ]
] as const)
  test(`a medium is told at a look: ${what}`, async () => {
    const input = { id: 's1', name: 'x', files: [new MemorySource('stick.img', stick(bytes))] };
    const opening = { keys: [], scratch: () => new MemoryScratch() };
    const glance = await glanceAt(input, opening, 'Etc/UTC', [], async () => undefined);
    assert.match(glance.says!, says);
    assert.ok(glance.worth);
  });

const rows = Array.from({ length: 300 }, (_, i) => ({
  id: i + 1,
  address: i % 2 === 0 ? '+447700900101' : '+447700900102',
  date: Date.UTC(2025, 2, 1) + i * 3_600_000,
  type: i % 3 === 0 ? 2 : 1,
  body: `The ${['tide', 'rope', 'lamp', 'quay'][i % 4]} was ${i} minutes late again`
}));
const csv = ['id,address,date,type,body', ...rows.map((row) => Object.values(row).join(','))].join(
  '\n'
);
const xml = `<?xml version='1.0'?><smses count="300">${rows
  .map(
    (row) =>
      `<sms address="${row.address}" date="${row.date}" type="${row.type}" body="${row.body}" />`
  )
  .join('\n')}</smses>`;
const lines = (n: number): string =>
  Array.from({ length: n }, (_, i) => {
    const at = new Date(Date.UTC(2025, 2, 1) + i * 60_000).toISOString();
    return `[${at.slice(0, 10)} ${at.slice(11, 19)}] ${i % 2 ? 'Kit' : 'Ada'}: words number ${i}`;
  }).join('\n');

const EXPORTS: [name: string, text: string, count: number | null][] = [
  ['export.xml', xml, 300],
  ['export.csv', csv, 300],
  ['export.jsonl', rows.map((row) => JSON.stringify(row)).join('\n'), 300],
  ['export.json', JSON.stringify(rows, null, 1), 300],
  ['log.txt', lines(300), 300],
  ['long.txt', lines(60_000), null]
];
for (const [name, text, count] of EXPORTS)
  test(`a look at ${name} sees its messages, or leaves them to the examination`, async () => {
    const input = { id: 's1', name, files: [new MemorySource(name, Buffer.from(text))] };
    const opening = { keys: [], scratch: () => new MemoryScratch() };
    const glance = await glanceAt(input, opening, 'Etc/UTC', [], async () => undefined);
    assert.equal(glance.worth, true);
    if (count === null) assert.ok(glance.parts[0]!.isMore && glance.parts[0]!.count > 1000);
    else assert.equal(glance.parts[0]?.count, count);
  });
