import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { tableSchema } from '../format/schema';
import { chooseReadings, type Candidate } from './candidate';
import { evaluate, type MatchContext } from './evaluate';
import { tableLayout } from './layout';
import { IMPOSSIBLE } from './evidence';
import { judgeText } from './textcheck';

const layout = tableLayout(
  tableSchema({
    type: 'table',
    name: 't',
    table: 't',
    root: 2,
    sql: 'CREATE TABLE t(id INTEGER PRIMARY KEY, n INTEGER NOT NULL, body TEXT)'
  })!,
  true
);

function reading(start: number, end: number, score: number): Candidate {
  return {
    layout,
    start,
    end,
    score,
    rowid: null,
    serials: [],
    bodyStart: start,
    payload: 0,
    headerSize: 0,
    local: 0,
    overflow: 0,
    rebuilt: 0,
    guessed: false,
    doubt: 0,
    base: 0,
    cut: false
  };
}

test('chosen readings never overlap and lie within the region', () => {
  const candidate = fc
    .tuple(fc.nat(200), fc.integer({ min: 4, max: 60 }), fc.integer({ min: 1, max: 80 }))
    .map(([start, size, score]) => reading(start, Math.min(260, start + size), score));
  fc.assert(
    fc.property(fc.array(candidate, { maxLength: 25 }), (candidates) => {
      const chosen = chooseReadings(candidates, { start: 0, end: 260 });
      for (let i = 1; i < chosen.length; i++) assert.ok(chosen[i]!.start >= chosen[i - 1]!.end);
      assert.ok(candidates.length === 0 || chosen.length > 0);
    })
  );
});

test('of overlapping readings the ones with more evidence together win', () => {
  const chosen = chooseReadings([reading(0, 100, 50), reading(0, 40, 30), reading(40, 100, 30)], {
    start: 0,
    end: 100
  });
  assert.deepEqual(
    chosen.map((c) => [c.start, c.end]),
    [
      [0, 40],
      [40, 100]
    ]
  );
});

test('well-formed text is told from what is not, in each encoding', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 80 }), (text) => {
      const clean = text.replace(/[\u0000-\u001f\u007f]/g, ' ');
      const utf8 = Buffer.from(clean);
      assert.ok(judgeText(utf8, 0, utf8.length, 'utf-8', false)! >= 0);
      const utf16 = Buffer.from(clean, 'utf16le');
      assert.notEqual(judgeText(utf16, 0, utf16.length, 'utf-16le', false), IMPOSSIBLE);
    })
  );
  const broken: number[][] = [
    [0xc3],
    [0xc0, 0xaf],
    [0xed, 0xa0, 0x80],
    [0xf5, 0x80, 0x80, 0x80],
    [0x80]
  ];
  for (const bytes of broken) {
    assert.equal(judgeText(Uint8Array.from(bytes), 0, bytes.length, 'utf-8', false), IMPOSSIBLE);
  }
});

test('the judge of text agrees with the decoder on any bytes', () => {
  const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 24 }), (bytes) => {
      let decodes = true;
      try {
        strict.decode(bytes);
      } catch {
        decodes = false;
      }
      assert.equal(judgeText(bytes, 0, bytes.length, 'utf-8', false) !== IMPOSSIBLE, decodes);
    }),
    { numRuns: 3000 }
  );
});

const context: MatchContext = { usable: 4096, pageCount: 10, encoding: 'utf-8', schemaFormat: 4 };

function judge(serials: number[], body: number[]): Candidate | null {
  const header = [serials.length + 1, ...serials];
  const page = new Uint8Array(4096);
  page.set([header.length + body.length, 5, ...header, ...body], 100);
  const facts = { start: 100, rowid: 5, serials, headerSize: header.length, headerStart: 102 };
  return evaluate(
    layout,
    page,
    { ...facts, rebuilt: 0, base: 14 },
    { start: 0, end: 4096 },
    context
  );
}

test('what SQLite could not have written is refused', () => {
  const word = [...Buffer.from('word')];
  const cases: [string, number[], number[], boolean][] = [
    ['as SQLite writes it', [0, 2, 21], [1, 44, ...word], true],
    ['an integer in a roomier type than it needs', [0, 2, 21], [0, 44, ...word], false],
    ['one as a byte, though the format has a type for it', [0, 1, 21], [1, ...word], false],
    ['a row number that is not left out', [1, 2, 21], [5, 1, 44, ...word], false],
    ['NULL where the column forbids it', [0, 0, 21], word, false],
    ['a number in a text column', [0, 2, 1], [1, 44, 7], false],
    ['text that is not well formed', [0, 2, 21], [1, 44, 0xff, 0xfe, 0xfd, 0xfc], false],
    ['a reserved serial type', [0, 10, 21], word, false]
  ];
  for (const [name, serials, body, believed] of cases) {
    assert.equal(judge(serials, body) !== null, believed, name);
  }
});
