import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { finish, makeDatabase } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { scanMedium, TRUNK, type FoundPage } from './scan';

const LEAF = 0x0d;

interface Store {
  size: number;
  pages: Uint8Array[];
}

/** Stores whose leaves hold many cells, or few, with free blocks between them and trunks among the free pages. */
function storeOf(size: number, encoding: string): Store {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(500, seeded(size)));
    db.run('DELETE FROM sms WHERE _id % 5 = 0 OR _id BETWEEN 100 AND 220');
  }, `PRAGMA page_size=${size}; PRAGMA encoding='${encoding}'; PRAGMA secure_delete=OFF;`);
  const count = bytes.length / size;
  const pages = Array.from({ length: count }, (_, i) => bytes.subarray(i * size, (i + 1) * size));
  return { size, pages };
}

const stores = [storeOf(1024, 'UTF-16le'), storeOf(1024, 'UTF-8'), storeOf(4096, 'UTF-8')];

/** Pages one behind the other, each after so many bytes of noise, and where they lie. */
function laid(pages: readonly Uint8Array[], gaps: readonly number[]): [Uint8Array, number[]] {
  const random = seeded(gaps.length + 3);
  const bytes: number[] = [];
  const offsets = pages.map((page, i) => {
    for (let n = 0; n < gaps[i]!; n++) bytes.push(Math.floor(random() * 256));
    bytes.push(...page);
    return bytes.length - page.length;
  });
  return [Uint8Array.from(bytes), offsets];
}

function scanned(bytes: Uint8Array): FoundPage[] {
  return finish(scanMedium(new MemorySource('x', bytes))).pages;
}

test('leaves are found wherever they lie, with their size, however few cells they hold', () => {
  const arbitraryStore = fc.constantFrom(...stores);
  const arbitraryGaps = fc.array(fc.integer({ min: 0, max: 700 }), { minLength: 6, maxLength: 6 });
  fc.assert(
    fc.property(arbitraryStore, fc.nat(), arbitraryGaps, ({ size, pages }, seed, gaps) => {
      const leaves = pages.filter((page) => page[0] === LEAF && (page[3]! << 8) + page[4]! > 0);
      const some = gaps.map((_, i) => leaves[(seed + i * 7) % leaves.length]!);
      const [bytes, offsets] = laid(some, gaps);
      const found = new Map(scanned(bytes).map((page) => [page.offset, page]));
      for (const offset of offsets) assert.equal(found.get(offset)?.size, size);
    }),
    { numRuns: 60 }
  );
});

test('a leaf that became a trunk of the free list is found by the cells that it still has', () => {
  for (const { size, pages } of stores) {
    const first = new DataView(pages[0]!.buffer, pages[0]!.byteOffset).getUint32(32);
    assert.ok(first > 0, 'there is a trunk');
    const leaf = pages.find((page) => page[0] === LEAF && page[3]! + page[4]! > 3)!;
    const [bytes, [, offset]] = laid([leaf, pages[first - 1]!], [777, 80]);
    assert.deepEqual(scanned(bytes)[1], { offset, size, kind: TRUNK });
  }
});

test('texts, noise and zeros hold no page', () => {
  const random = seeded(9);
  const noise = Uint8Array.from({ length: 1 << 20 }, () => Math.floor(random() * 256));
  const text = new TextEncoder().encode('12:30 the tide is out, said the ferryman\n'.repeat(9000));
  for (const bytes of [noise, text, new Uint8Array(1 << 19)]) assert.deepEqual(scanned(bytes), []);
});
