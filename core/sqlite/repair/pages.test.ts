import assert from 'node:assert/strict';
import { createCipheriv } from 'node:crypto';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource, u32be } from '../../host';
import { askSqlite, filesOf, makeDatabase } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { Database } from '../read/database';
import { looksEncrypted } from '../format/errors';
import { mapPages } from '../recover/owners';
import { gatherOverflow } from '../format/overflow';
import { guessHeader } from './guess-header';
import { fillsItsSize, isBtreePage, isPageKind, pageKeys } from '../format/page-check';

function store(pragmas = '', more = ''): Uint8Array {
  return makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(900, seeded(5)));
    db.run(`CREATE INDEX by_date ON sms(date, address); ${more}`);
  }, pragmas);
}

for (const size of [512, 1024, 4096, 65536]) {
  test(`pages of a real database identify themselves, others do not: ${size} bytes`, () => {
    const bytes = store(`PRAGMA page_size=${size};`);
    const database = Database.open(filesOf(bytes));
    const uses = mapPages(database);
    let trees = 0;
    for (let number = 1; number <= database.pages.pageCount; number++) {
      const page = database.pages.page(number)!;
      const { role } = uses.get(number);
      const cells = page[number === 1 ? 104 : 4]! | page[number === 1 ? 103 : 3]!;
      if (role === 'tree' && cells > 0) {
        assert.ok(isBtreePage(page, size, number), `page ${number}`);
        trees++;
      }
      if (role === 'overflow') assert.ok(!isBtreePage(page, size, number), `page ${number}`);
    }
    assert.ok(trees > 3);
  });
}

test('noise, text and zeros are no pages', () => {
  const random = seeded(3);
  for (let i = 0; i < 3000; i++) {
    const page = Uint8Array.from({ length: 512 }, () => Math.floor(random() * 256));
    page[0] = [0x02, 0x05, 0x0a, 0x0d][i % 4]!;
    assert.equal(isBtreePage(page, 512), false);
  }
  assert.equal(isBtreePage(new Uint8Array(512), 512), false);
  assert.equal(isBtreePage(Buffer.from('the tide is out '.repeat(32)), 512), false);
  for (let kind = 0; kind < 256; kind++)
    assert.equal(isPageKind(kind), [0x02, 0x05, 0x0a, 0x0d].includes(kind));
});

test('any change of a page is read without harm', () => {
  const bytes = store('PRAGMA page_size=512;');
  const database = Database.open(filesOf(bytes));
  const pages = [3, 5, 8, 13].map((number) => database.pages.page(number)!);
  fc.assert(
    fc.property(
      fc.constantFrom(...pages),
      fc.array(fc.tuple(fc.nat(511), fc.nat(255)), { maxLength: 6 }),
      (original, flips) => {
        const page = Uint8Array.from(original);
        for (const [at, byte] of flips) page[at] = byte;
        const keys = pageKeys(page, 512);
        assert.ok(keys.length <= 256);
        // What is believed has cells, and what fills its size has some in its second half.
        if (isBtreePage(page, 512)) assert.ok(keys.length > 0);
        if (fillsItsSize(page, 512)) assert.ok(isPageKind(page[0]!));
      }
    ),
    { numRuns: 1000 }
  );
});

test('row numbers of a page rise, and those of an interior page bound its children', () => {
  const database = Database.open(filesOf(store('PRAGMA page_size=512;')));
  const root = database.table('sms')!.root;
  const visit = (number: number, from: number, to: number): number => {
    const page = database.pages.page(number)!;
    const keys = pageKeys(page, 512);
    keys.forEach(({ key }, i) => {
      assert.ok(key >= from && key <= to, `page ${number}: ${key}`);
      if (i > 0) assert.ok(key > keys[i - 1]!.key);
    });
    let rows = page[0] === 0x0d ? keys.length : 0;
    let low = from;
    for (const { key, child } of keys) {
      if (child !== 0) rows += visit(child, low, key);
      low = key + 1;
    }
    // The rightmost child stands in the header.
    return page[0] === 0x05 ? rows + visit(u32be(page, 8), low, to) : rows;
  };
  assert.equal(visit(root, 1, 900), 900);
});

test('a guessed header says what the real one said', () => {
  const cases: [string, string, string][] = [
    ['plain', '', ''],
    ['wide', "PRAGMA encoding='UTF-16le';", ''],
    ['auto-vacuum', 'PRAGMA auto_vacuum=1;', ''],
    ['with free pages', 'PRAGMA page_size=1024;', 'DELETE FROM sms WHERE _id < 500;']
  ];
  for (const [says, pragmas, more] of cases) {
    const bytes = store(pragmas, more);
    const real = Database.open(filesOf(bytes)).header;
    const guessed = guessHeader(new MemorySource('a.db', bytes), real.pageSize);
    for (const field of [
      'encoding',
      'autoVacuum',
      'freelistTrunk',
      'freelistCount',
      'pageCount'
    ] as const)
      assert.equal(guessed[field], real[field], `${says}: ${field}`);
    assert.equal(askSqlite(bytes, 'PRAGMA freelist_count')[0]![0], guessed.freelistCount);
  }
});

test('a payload over pages is gathered up to what is there', () => {
  const body = 'rope and tar '.repeat(700);
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT)');
    db.run('INSERT INTO t VALUES(1, ?)', [body]);
  }, 'PRAGMA page_size=1024;');
  const database = Database.open(filesOf(bytes));
  const [row] = [...database.rows(database.table('t')!)];
  assert.equal(row!.values[1], body);
  const { pages } = database;
  const none = new Uint8Array(0);
  const chain = gatherOverflow(pages, none, 5000, 3);
  assert.ok(chain.complete && chain.payload.length === 5000 && chain.pages[0] === 3);
  const refused = gatherOverflow(pages, none, 5000, 3, (page) => page < 5);
  assert.deepEqual([refused.complete, refused.pages], [false, [3, 4]]);
  for (const first of [0, 999_999]) {
    const lost = gatherOverflow(pages, Uint8Array.of(1, 2), 5000, first);
    assert.deepEqual([lost.complete, [...lost.payload], lost.pages], [false, [1, 2], []]);
  }
});

test('a chain that runs in a circle ends', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(body TEXT)');
    db.run('INSERT INTO t VALUES(?)', ['x'.repeat(9000)]);
  }, 'PRAGMA page_size=1024;');
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  view.setUint32(4 * 1024, 3);
  const { pages } = Database.open(filesOf(bytes));
  const chain = gatherOverflow(pages, new Uint8Array(0), 1 << 30, 3);
  assert.equal(chain.complete, false);
  assert.ok(chain.pages.length <= pages.pageCount);
});

test('encrypted bytes are told from packed, plain and empty ones', () => {
  const plain = store();
  const cipher = createCipheriv('aes-256-ctr', Buffer.alloc(32, 7), Buffer.alloc(16, 1));
  const encrypted = Buffer.concat([cipher.update(plain), cipher.final()]);
  for (const at of [0, 4096, 40_000]) assert.ok(looksEncrypted(encrypted.subarray(at, at + 4096)));
  assert.ok(!looksEncrypted(plain.subarray(0, 4096)));
  assert.ok(!looksEncrypted(new Uint8Array(4096)));
  assert.ok(!looksEncrypted(Buffer.from('plain words '.repeat(400))));
  assert.ok(!looksEncrypted(encrypted.subarray(0, 100)), 'too little to tell');
});
