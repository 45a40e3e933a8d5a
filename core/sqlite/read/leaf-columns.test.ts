import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { filesOf, finish, makeDatabase } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { Database } from './database';
import { readColumns, type LeafReader } from './leaf-columns';
import { walkLeaves } from './leaves';
import {
  isReread,
  placesOf,
  readLiveRows,
  sampleOf,
  type LiveOptions,
  type LiveRows
} from './live-rows';

/** More leaves than one thread is left alone with, some rows on overflow pages, three levels of pages. */
const BYTES = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(7000, seeded(5)));
  db.run('UPDATE sms SET body = body || hex(zeroblob(400)) WHERE _id % 700 = 3');
  db.run('DELETE FROM sms WHERE _id % 9 = 4');
}, 'PRAGMA page_size=512;');

/** Everything that was read and told. */
interface Read {
  places: unknown[];
  sample: unknown[];
  damage: unknown[];
  pages: number[];
  spills: string[];
}

/** Reads with helpers that answer whenever the work rests; `reads` counts their parts. */
async function read(bytes: Uint8Array, readers?: LiveOptions['readers']): Promise<Read> {
  const database = Database.open(filesOf(bytes));
  database.damage.length = 0;
  const pages = new Set<number>();
  const spills = new Set<string>();
  const observer = {
    page: (number: number): void => void pages.add(number),
    spill: (first: number, size: number): void => void spills.add(`${first}+${size}`)
  };
  const table = database.table('sms')!;
  const work = readLiveRows(database, table, { mostHeld: 300, observer, readers });
  let step = work.next();
  for (; !step.done; step = work.next()) await Promise.resolve();
  return {
    ...told(step.value),
    damage: database.damage,
    pages: [...pages].sort(),
    spills: [...spills].sort()
  };
}

function told(rows: LiveRows): Pick<Read, 'places' | 'sample'> {
  const places = Array.from(placesOf(rows), (place) => ({
    rowid: place.rowid,
    page: place.page,
    offset: place.offset
  }));
  return { places, sample: [...sampleOf(rows)] };
}

class Reader implements LeafReader {
  parts = 0;
  private readonly database: Database;

  constructor(
    bytes: Uint8Array,
    private readonly fails = false
  ) {
    this.database = Database.open(filesOf(bytes));
  }

  async read(leaves: Uint32Array): ReturnType<LeafReader['read']> {
    if (this.fails) throw new Error('the thread died');
    this.parts++;
    return structuredClone(readColumns(this.database, leaves));
  }
}

test('rows that several threads read are those that one reads, with the same sample', async () => {
  const alone = await read(BYTES);
  assert.ok(alone.places.length > 6000 && alone.spills.length > 5 && alone.sample.length > 1000);
  const reader = new Reader(BYTES);
  assert.deepEqual(await read(BYTES, () => [reader]), alone);
  assert.ok(reader.parts > 0, 'the other thread read nothing');
  assert.deepEqual(await read(BYTES, () => [new Reader(BYTES, true)]), alone);
});

test('a damaged tree gives the same rows and the same notes, whoever reads', async () => {
  const flip = fc.record({ at: fc.nat(BYTES.length - 1), to: fc.nat(255) });
  await fc.assert(
    fc.asyncProperty(fc.array(flip, { minLength: 1, maxLength: 40 }), async (flips) => {
      const bytes = BYTES.slice();
      // The declarations stay, so that there is a table to be read.
      for (const { at, to } of flips) bytes[Math.max(at, 4096)] = to;
      assert.deepEqual(await read(bytes, () => [new Reader(bytes)]), await read(bytes));
    }),
    { numRuns: 12 }
  );
});

test('leaves are named in the order of the tree, with the numbers that each can hold', () => {
  const database = Database.open(filesOf(BYTES));
  const rows = finish(readLiveRows(database, database.table('sms')!, { mostHeld: 300 }));
  assert.ok(isReread(rows));
  const found: { page: number; from: number; to: number }[] = [];
  const { root } = database.table('sms')!;
  const stretch = { from: 1, to: rows.last };
  const inner = walkLeaves(database.pages, root, stretch, (page, from, to) =>
    found.push({ page, from, to })
  );
  assert.ok(inner && inner.size > 10);
  assert.deepEqual(
    Uint32Array.from(found, ({ page }) => page),
    rows.leaves()
  );
  const byPage = new Map(found.map((leaf) => [leaf.page, leaf]));
  for (const { rowid, page } of placesOf(rows)) {
    const { from, to } = byPage.get(page)!;
    assert.ok(Number(rowid) >= from && Number(rowid) <= to, `${rowid} on page ${page}`);
  }
  found.slice(1).forEach(({ from }, i) => assert.equal(from, found[i]!.to + 1));
});

test('a tree that leads back to its root, or deeper than any does, names no whole list of leaves', () => {
  const bytes = BYTES.slice();
  const { root } = Database.open(filesOf(bytes)).table('sms')!;
  const view = new DataView(bytes.buffer);
  view.setUint32((root - 1) * 512 + 8, root);
  const looped = Database.open(filesOf(bytes));
  const leaves: number[] = [];
  assert.equal(
    walkLeaves(looped.pages, root, { from: 1, to: 9 }, (page) => leaves.push(page)),
    null
  );
  assert.ok(leaves.length > 100, 'what can be reached is named');
});
