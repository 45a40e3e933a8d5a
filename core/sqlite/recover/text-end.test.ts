import assert from 'node:assert/strict';
import { test } from 'node:test';
import { tableSchema } from '../format/schema';
import type { Candidate } from './candidate';
import { learnRow, tableLayout } from './layout';
import { readRow, type FreedRow, type RowProof } from './row';
import type { TextEncoding } from '../../host';

const table = tableSchema({
  type: 'table',
  name: 'note',
  table: 'note',
  root: 2,
  sql: 'CREATE TABLE note(id INTEGER PRIMARY KEY, body TEXT)'
})!;
const layout = tableLayout(table, true);
// Text in two scripts, so that letters of neither are strange.
for (let i = 0; i < 60; i++) learnRow(layout, [i, `line ${i} of the list 船と港`], 2);

const PROOF: RowProof = { file: 'a.db', page: 2, offset: 8192, length: 90, method: 'free-block' };
const WORDS = '143: the tide is out';
/** A later cell: its length, number and record header. */
const LATER = [0x7c, 0x81, 0x3a, 0x13, 0x00, 0x01, 0x41, 0x00, 0x05, 0x05];

function encoded(text: string, encoding: TextEncoding): Buffer {
  if (encoding === 'utf-8') return Buffer.from(text);
  const little = Buffer.from(text, 'utf16le');
  return encoding === 'utf-16le' ? little : little.swap16();
}

/** What is read of a text of which a later cell took the bytes from `at` on. */
function readWith(at: number, later: readonly number[], encoding: TextEncoding): string {
  const body = encoded(WORDS, encoding);
  body.set(later.slice(0, body.length - at), at);
  const candidate: Candidate = {
    layout,
    start: 0,
    end: body.length,
    score: 60,
    rowid: null,
    serials: [0, 13 + 2 * body.length],
    bodyStart: 0,
    payload: body.length,
    headerSize: 0,
    local: body.length,
    overflow: 0,
    rebuilt: 4,
    guessed: false,
    doubt: 0,
    base: 20,
    cut: false
  };
  const row = readRow(candidate, body, { usable: 4096, encoding, page: () => null }, PROOF);
  assert.ok(row && 'values' in row, 'the row is not whole');
  return String((row as FreedRow).values[1]);
}

for (const encoding of ['utf-8', 'utf-16le', 'utf-16be'] as const) {
  test(`a text that a later cell was written into ends before it, wherever that begins: ${encoding}`, () => {
    const size = encoding === 'utf-8' ? 1 : 2;
    for (let at = 12; at < 24 && at + 4 < WORDS.length * size; at++) {
      const text = readWith(at, LATER, encoding);
      // Bytes of the later cell that look like letters cannot be told in UTF-8.
      const isTold =
        encoding === 'utf-8' ? WORDS.startsWith(text.slice(0, at)) : WORDS.startsWith(text);
      assert.ok(isTold, `at ${at}: ${JSON.stringify(text)}`);
      assert.ok(text.length * size >= at - 3 * size, `at ${at}: ${JSON.stringify(text)}`);
    }
  });
}
