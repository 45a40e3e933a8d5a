import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { makeDatabase } from '../../tests/databases';
import { MemorySource } from '../../host';
import { Database } from '../read/database';
import { LeafCells } from '../format/leaf-cells';
import { readLeaf } from '../read/leaves';
import type { MatchContext } from './evaluate';
import { learnRow, tableLayout, type Layout } from './layout';
import { oneCell } from './one-cell';
import { CERTAIN, guessedAt, overwrittenAt } from './overwritten';
import { readRow, type RowProof } from './row';

const database = Database.open({
  main: new MemorySource(
    'a.db',
    makeDatabase((db) =>
      db.run(`CREATE TABLE t(id INTEGER PRIMARY KEY, code TEXT, at INTEGER, body TEXT, share REAL, more BLOB,
          sent INTEGER, seen INTEGER, kind INTEGER, subject TEXT, place TEXT, size INTEGER);
        WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 300)
        INSERT INTO t SELECT i * CASE i % 3 WHEN 0 THEN 70000 WHEN 1 THEN 900 ELSE 4000000 END, 'C-' || (1000 + i),
          1700000000000 + i * 60000, CASE i % 7 WHEN 0 THEN 'ein Fährschiff ' || i ELSE 'the tide is out ' || i END
          || CASE i % 4 WHEN 0 THEN hex(zeroblob(30)) ELSE '' END, CASE i % 5 WHEN 0 THEN i / 7.0 END,
          CASE i % 6 WHEN 0 THEN zeroblob(i % 9) END,
          1700000000000 + i * 60000 - 900, i % 2, 1 + i % 4, NULL, 'quay ' || (i % 9), i * 300 FROM n`)
    )
  )
});

const table = database.table('t')!;
const { pages, header } = database;
const context: MatchContext = {
  usable: pages.usable,
  pageCount: pages.pageCount,
  encoding: header.encoding,
  schemaFormat: header.schemaFormat
};

function layoutOf(): Layout {
  const layout = tableLayout(table, true);
  for (const { values, stored } of database.rows(table)) learnRow(layout, values, stored);
  return layout;
}

const layout = layoutOf();

/** Every cell of the table, as a page and where it begins and ends. */
function cells(): { page: Uint8Array; start: number; end: number }[] {
  const leaf = new LeafCells();
  return [...database.walk(table)].flatMap((page) =>
    readLeaf(leaf, database, page)
      ? Array.from({ length: leaf.count }, (_, i) => ({
          page: page.bytes,
          start: leaf.start[i]!,
          end: leaf.end[i]!
        }))
      : []
  );
}

/** The page once the cell became a free block, with further changes. */
function freed(
  { page, start, end }: { page: Uint8Array; start: number; end: number },
  changes: readonly [number, number][]
): Uint8Array {
  const bytes = page.slice();
  new DataView(bytes.buffer).setUint32(start, end - start);
  for (const [at, value] of changes) bytes[start + (at % (end - start))] = value;
  return bytes;
}

const all = cells();
const anyCell = fc.constantFrom(...all);
const someChanges = fc.array(fc.tuple(fc.nat(400), fc.nat(255)), { maxLength: 3 });

/** Compares the quick look at a block with the full one; returns whether the quick one told anything. */
function compare(page: Uint8Array, start: number, end: number): boolean {
  const quick = oneCell(page, { start, end }, layout, context);
  if (!quick) return false;
  const { verbatim, ...told } = quick;
  const found = overwrittenAt(page, { start, end }, layout, context);
  const guessed = quick.score >= CERTAIN ? [] : guessedAt(page, { start, end }, layout, context);
  assert.deepEqual(found, [told, ...guessed]);
  const proof: RowProof = { file: 'a.db', page: 2, offset: 0, length: 1, method: 'free-block' };
  const spill = { usable: context.usable, encoding: context.encoding, page: () => null };
  const row = (candidate: typeof told): unknown =>
    structuredClone(readRow(candidate, page, spill, proof));
  if (verbatim) assert.deepEqual(row(quick), row(told));
  return true;
}

test('most cells that became blocks are told at first sight', () => {
  const told = all.filter((cell) => compare(freed(cell, []), cell.start, cell.end));
  assert.ok(told.length > all.length * 0.6, `${told.length} of ${all.length}`);
});

test('what is told at first sight is what is found in full, whatever lies in the block', () => {
  let told = 0;
  fc.assert(
    fc.property(anyCell, someChanges, fc.nat(4), (cell, changes, short) => {
      if (compare(freed(cell, changes), cell.start, cell.end - short)) told++;
    }),
    { numRuns: 3000 }
  );
  assert.ok(told > 150, `${told} told`);
});

test('nothing is told of noise', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 40, maxLength: 200 }), (noise) => {
      const page = new Uint8Array(4096);
      page.set(noise, 100);
      assert.ok(!compare(page, 100, 100 + noise.length));
    }),
    { numRuns: 2000 }
  );
});
