import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { makeDatabase } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { SqliteFormatError } from '../format/errors';
import { guessPageSize } from './guess-header';
import { openDatabase } from './open';
import { isBtreePage } from '../format/page-check';

const SIZES = [512, 1024, 2048, 4096, 8192, 16384, 32768, 65536];

function store(pragmas = '', count = 1500): Uint8Array {
  return makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(count, seeded(5)));
    db.run('DELETE FROM sms WHERE _id % 9 = 0');
  }, pragmas);
}

function rowsOf(bytes: Uint8Array, table: RegExp): number {
  const { database } = openDatabase({ main: new MemorySource('a.db', bytes) }, []);
  const schema = database.tables.find(({ name }) => table.test(name));
  return schema ? [...database.rows(schema)].length : 0;
}

for (const size of SIZES) {
  test(`the page size ${size} is found by trying`, () => {
    const bytes = store(`PRAGMA page_size=${size};`);
    bytes.fill(0, 0, 100);
    assert.equal(guessPageSize(new MemorySource('a.db', bytes)), size);
    assert.equal(rowsOf(bytes, /^sms$/), rowsOf(store(`PRAGMA page_size=${size};`), /^sms$/));
  });
}

for (const encoding of ['UTF-8', 'UTF-16le', 'UTF-16be']) {
  test(`${encoding} is told by the texts when the header is gone`, () => {
    const bytes = store(`PRAGMA encoding='${encoding}';`);
    bytes.fill(0, 0, 100);
    const { database, told } = openDatabase({ main: new MemorySource('a.db', bytes) }, []);
    assert.equal(database.header.encoding, encoding.toLowerCase());
    assert.match(told[0]!, /header of a\.db is gone/);
    assert.deepEqual(database.tables.map(({ name }) => name).sort(), [
      'canonical_addresses',
      'sms',
      'sqlite_sequence',
      'threads'
    ]);
  });
}

test('without its first page tables are recognised by the shape of their rows', () => {
  const bytes = store();
  const count = rowsOf(bytes, /^sms$/);
  bytes.fill(0x5a, 0, 4096);
  const { database, told } = openDatabase({ main: new MemorySource('a.db', bytes) }, []);
  assert.ok(database.guessed);
  assert.match(told.join(' '), /recognised by the shape of their rows/);
  const widest = [...database.tables].sort((a, b) => b.columns.length - a.columns.length)[0]!;
  assert.equal([...database.rows(widest)].length, count);
  const known = openDatabase({ main: new MemorySource('b.db', store()) }, []).database.tables;
  const named = openDatabase({ main: new MemorySource('a.db', bytes) }, known).database;
  assert.ok(named.tables.some(({ name }) => name === 'sms'));
});

test('a wrong page size in the header is overruled by the pages', () => {
  const bytes = store();
  bytes[16] = 0x20;
  bytes[17] = 0;
  const { database, told } = openDatabase({ main: new MemorySource('a.db', bytes) }, []);
  assert.equal(database.pages.pageSize, 4096);
  assert.match(told.join(' '), /gives a page size of 8192 bytes, but its pages show 4096/);
});

test('what is no database is refused, whatever its bytes', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 0, maxLength: 9000 }), (bytes) => {
      try {
        openDatabase({ main: new MemorySource('x', bytes) }, []);
        assert.fail('it was opened');
      } catch (error) {
        assert.ok(error instanceof SqliteFormatError);
      }
    }),
    { numRuns: 200 }
  );
});

test('pages identify themselves; texts and noise do not', () => {
  const bytes = store();
  let pages = 0;
  for (let at = 4096; at < bytes.length; at += 4096) {
    if (isBtreePage(bytes.subarray(at, at + 4096), 4096)) pages++;
  }
  assert.ok(pages > (bytes.length / 4096) * 0.9);
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 1024, maxLength: 1024 }), fc.nat(3), (page, kind) => {
      page[0] = [2, 5, 10, 13][kind]!;
      assert.equal(isBtreePage(page, 1024), false);
    })
  );
});
