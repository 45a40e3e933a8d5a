import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import fc from 'fast-check';
import { writeJournal, type JournalImage } from '../../../bench/writers/journal';
import { MemorySource } from '../../host';
import { askAfter, filesOf, finish, makeDatabase } from '../../tests/databases';
import { Database } from '../read/database';
import { recoverTables } from '../recover/recover';
import { readJournal } from './journal';

const SIZE = 1024;
const before = makeDatabase((db) => {
  db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT)');
  for (let i = 1; i <= 90; i++)
    db.run('INSERT INTO t VALUES(?, ?)', [i, `line ${i} as it was before`]);
}, `PRAGMA page_size=${SIZE};`);
const after = askAfter(
  before,
  "PRAGMA secure_delete=ON; DELETE FROM t WHERE id % 4 = 0; UPDATE t SET body = 'now otherwise' WHERE id % 9 = 1"
);

function page(bytes: Uint8Array, number: number): Uint8Array {
  return bytes.subarray((number - 1) * SIZE, number * SIZE);
}

/** The pages that differ, as they were before. */
function images(): JournalImage[] {
  const out: JournalImage[] = [];
  for (let number = 1; number * SIZE <= before.length; number++) {
    const bytes = page(before, number);
    if (Buffer.compare(bytes, page(after, number)) !== 0) out.push({ page: number, bytes });
  }
  return out;
}

const changed = images();
const options = { pageSize: SIZE, initialPages: before.length / SIZE };

function bodies(main: Uint8Array, journal?: Uint8Array): string[] {
  const database = Database.open(filesOf(main, undefined, journal));
  return [...database.rows(database.table('t')!)].map(({ values }) => String(values[1]));
}

test('a hot journal is rolled back by us as by SQLite', () => {
  for (const segments of [[changed], [changed.slice(0, 1), changed.slice(1)]]) {
    const journal = writeJournal(segments, options);
    const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
    writeFileSync(join(folder, 'a.db'), after);
    writeFileSync(join(folder, 'a.db-journal'), journal);
    const query = 'SELECT body FROM t ORDER BY id';
    const answer = execFileSync('sqlite3', [join(folder, 'a.db'), query], { encoding: 'utf8' });
    assert.deepEqual(answer.trimEnd().split('\n'), bodies(before));
    assert.deepEqual(bodies(after, journal), bodies(before));
  }
});

test('sectors of any size, a count that is left open, a page that comes twice', () => {
  for (const sector of [512, 1024, 4096])
    assert.deepEqual(
      bodies(after, writeJournal([changed], { ...options, sector })),
      bodies(before)
    );
  assert.deepEqual(
    bodies(after, writeJournal([changed], { ...options, openEnd: true })),
    bodies(before)
  );
  const twice = [...changed, { page: changed[0]!.page, bytes: page(before, changed[0]!.page) }];
  assert.deepEqual(bodies(after, writeJournal([twice], options)), bodies(before));
});

test('a journal whose header was zeroed leaves the present alone and gives back what was before', () => {
  const journal = writeJournal([changed], { ...options, zeroed: true });
  assert.deepEqual(bodies(after, journal), bodies(after));
  const read = readJournal(new MemorySource('j', journal), SIZE)!;
  assert.equal(read.hot, false);
  assert.deepEqual(
    read.pages.map(({ page: number }) => number),
    changed.map(({ page: number }) => number)
  );
  const database = Database.open(filesOf(after, undefined, journal));
  const [table] = finish(recoverTables(database, { wanted: () => true, freed: true }));
  const found = new Set([...table!.freed].map(({ values }) => String(values[1])));
  for (const body of bodies(before)) {
    const isLive = bodies(after).includes(body);
    assert.equal(found.has(body), !isLive, body);
  }
});

test('playback ends at the first image whose checksum fails', () => {
  const journal = Buffer.from(writeJournal([changed], options));
  const at = 512 + SIZE + 8 + 4 + (SIZE - 200);
  journal[at]! ^= 0x40;
  const read = readJournal(new MemorySource('j', journal), SIZE)!;
  assert.equal(read.pages.length, 1);
});

test('a journal of pages of another size is none of this database', () => {
  const journal = writeJournal([[{ page: 1, bytes: new Uint8Array(4096) }]], {
    pageSize: 4096,
    initialPages: 9
  });
  assert.deepEqual(bodies(after, journal), bodies(after));
});

test('damaged journals never hang, and never take what they hold from outside themselves', () => {
  const journal = writeJournal([changed], options);
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(journal.length - 1), fc.nat(255)), { maxLength: 20 }),
      fc.nat(journal.length),
      (changes, length) => {
        const damaged = Buffer.from(journal).subarray(0, length);
        for (const [at, value] of changes) if (at < length) damaged[at] = value;
        const read = readJournal(new MemorySource('j', damaged), SIZE);
        for (const { offset } of read?.pages ?? [])
          assert.ok(offset >= 4 && offset + read!.pageSize <= length);
      }
    )
  );
});
