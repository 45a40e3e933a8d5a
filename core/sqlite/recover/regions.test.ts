import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { filesOf, makeDatabase } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { firstFilled, isBlank } from './blank';
import { Database } from '../read/database';
import { readCell, readPageHeader } from '../format/page';
import { currentImages, otherImages, pageImages } from './images';
import { mapPages, PageUses } from './owners';
import { freeArea, staleArea } from './regions';
import { addSpace, countSpace, noSpace } from './space';
import { u16be, u32be } from '../../host';

const sent = messages(500, seeded(6));

function telephony(after: string, pragmas = ''): Database {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, sent);
    db.run('CREATE INDEX by_date ON sms(date)');
    db.run(after);
  }, pragmas);
  return Database.open(filesOf(bytes));
}

const DATABASES: [string, Database][] = [
  ['nothing deleted', telephony('')],
  ['single rows deleted', telephony('DELETE FROM sms WHERE _id % 4 = 0')],
  ['a long range deleted', telephony('DELETE FROM sms WHERE _id BETWEEN 100 AND 400')],
  ['small pages', telephony('DELETE FROM sms WHERE _id % 3 = 0', 'PRAGMA page_size=512;')],
  ['auto-vacuum', telephony('DELETE FROM sms WHERE _id < 90', 'PRAGMA auto_vacuum=2;')],
  ['large pages', telephony('DELETE FROM sms WHERE _id % 5 = 0', 'PRAGMA page_size=65536;')]
];

/** Bytes of a page that its header, pointers and cells use, told one by one. */
function usedBytes(page: Uint8Array, number: number, usable: number): Uint8Array {
  const used = new Uint8Array(usable);
  const header = readPageHeader(page, number)!;
  used.fill(1, 0, header.pointers + 2 * header.cellCount);
  for (let i = 0; i < header.cellCount; i++) {
    const cell = readCell(page, header.kind, u16be(page, header.pointers + 2 * i), usable)!;
    used.fill(1, cell.start, cell.end);
  }
  return used;
}

/** Pages of the free list as the file's header counts them (file format, section 1.3.8). */
function statedFree({ pages }: Database): number {
  return u32be(pages.page(1)!, 36);
}

for (const [says, database] of DATABASES) {
  test(`what is searched is what nothing uses, and never what is used: ${says}`, () => {
    const { usable, pageCount } = database.pages;
    const uses = mapPages(database);
    for (let number = 1; number <= pageCount; number++) {
      const use = uses.get(number);
      const page = database.pages.page(number)!;
      const { regions, blocks } = freeArea(page, number, use, usable);
      let last = 0;
      for (const { start, end } of regions) {
        assert.ok(start >= last && end > start && end <= usable, `page ${number}`);
        last = end;
      }
      if (use.role !== 'tree') continue;
      const used = usedBytes(page, number, usable);
      const searched = new Uint8Array(usable);
      for (const { start, end } of regions) searched.fill(1, start, end);
      for (let at = 0; at < usable; at++)
        assert.ok(!(used[at] && searched[at]), `page ${number}, offset ${at}`);
      // Free blocks are searched whole.
      for (const { start, end } of blocks)
        assert.ok(searched.subarray(start, end).every((byte) => byte === 1));
      // What is left out is used, too short to tell anything, or old pointers and zeros before the cells.
      const left = [...searched.keys()].filter(
        (at) => !used[at] && !searched[at] && page[at] !== 0
      );
      assert.ok(left.length < 400, `page ${number}: ${left.length}`);
    }
  });

  test(`each page has one use, which goes from thread to thread unchanged: ${says}`, () => {
    const uses = mapPages(database);
    const copy = PageUses.unpack(structuredClone(uses.pack()));
    const roles = new Set<string>();
    for (let number = 1; number <= database.pages.pageCount; number++) {
      assert.deepEqual(copy.get(number), uses.get(number));
      roles.add(uses.get(number).role);
    }
    assert.ok(!roles.has('unknown'), [...roles].join());
    assert.equal(copy.countFree(), uses.countFree());
    assert.equal(uses.countFree(), statedFree(database));
  });
}

test('every current page is an image once, in order, whatever its stretch', () => {
  const [, database] = DATABASES[1]!;
  const { pageCount } = database.pages;
  fc.assert(
    fc.property(fc.integer({ min: 1, max: pageCount }), fc.nat(pageCount), (from, size) => {
      const to = Math.min(pageCount, from + size);
      const numbers = [...currentImages(database, { from, to })].map(({ number }) => number);
      assert.deepEqual(
        numbers,
        Array.from({ length: to - from + 1 }, (_, i) => from + i)
      );
    })
  );
  const all = [...pageImages(database)].length;
  assert.equal(all, pageCount + [...otherImages(database)].length);
});

test('a page of another state is searched whole, and knows where its cells began', () => {
  const [, database] = DATABASES[0]!;
  const { usable } = database.pages;
  const leaf = [...currentImages(database, { from: 1, to: database.pages.pageCount })].find(
    ({ number }) => mapPages(database).get(number).owner === 'sms'
  )!;
  const page = database.pages.page(leaf.number)!;
  const { regions, hints } = staleArea(page, leaf.number, usable);
  assert.deepEqual(regions, [{ start: 0, end: usable }]);
  assert.equal(hints.pointers.size, readPageHeader(page, leaf.number)!.cellCount);
  assert.deepEqual(staleArea(new Uint8Array(usable), 1, usable).regions, [
    { start: 100, end: usable }
  ]);
});

test('any bytes are a page whose areas lie within it', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 512, maxLength: 512 }),
      fc.constantFrom(0x02, 0x05, 0x0a, 0x0d, 0x33),
      (page, kind) => {
        page[0] = kind;
        for (const area of [
          staleArea(page, 2, 512),
          freeArea(page, 2, { role: 'tree', owner: 't', slack: 512 }, 512)
        ]) {
          for (const { start, end } of [...area.regions, ...area.blocks])
            assert.ok(start >= 0 && start < end && end <= 512);
          for (let i = 1; i < area.blocks.length; i++)
            assert.ok(area.blocks[i]!.start >= area.blocks[i - 1]!.end);
        }
      }
    ),
    { numRuns: 1000 }
  );
});

test('freed space is counted, and what of it was wiped', () => {
  const count = (database: Database): ReturnType<typeof noSpace> => {
    const space = noSpace();
    const { usable, pageCount } = database.pages;
    for (let number = 1; number <= pageCount; number++) {
      const use = mapPages(database).get(number);
      const page = database.pages.page(number)!;
      const part = noSpace();
      countSpace(part, page, use, freeArea(page, number, use, usable));
      addSpace(space, part);
    }
    return space;
  };
  const kept = count(DATABASES[1]![1]);
  assert.ok(kept.bytes > 5000 && kept.wiped < kept.bytes * 0.1, JSON.stringify(kept));
  const wiped = count(telephony('PRAGMA secure_delete=ON; DELETE FROM sms WHERE _id % 4 = 0'));
  assert.ok(wiped.bytes > 5000 && wiped.wiped > wiped.bytes * 0.9, JSON.stringify(wiped));
  const pages = count(DATABASES[2]![1]);
  assert.equal(pages.freePages, statedFree(DATABASES[2]![1]));
});

test('a stretch is blank up to its first byte that is not zero', () => {
  fc.assert(
    fc.property(fc.uint8Array({ max: 1, maxLength: 40 }), fc.nat(40), fc.nat(40), (page, a, b) => {
      const [start, end] = [Math.min(a, b, page.length), Math.min(Math.max(a, b), page.length)];
      const slowly = page.subarray(start, end).findIndex((byte) => byte !== 0);
      assert.equal(firstFilled(page, { start, end }), slowly < 0 ? end : start + slowly);
      assert.equal(isBlank(page, start, end), slowly < 0);
    })
  );
});
