import assert from 'node:assert/strict';
import { test } from 'node:test';
import excel from 'exceljs';
import fc from 'fast-check';
import type { Row } from './sheets';
import { Workbook } from './workbook';

const MADE = new Date('2026-03-12T08:55:12Z');
const width = (): number => 12;

function written(sheets: [name: string, rows: Row[]][]): Uint8Array {
  const book = new Workbook(MADE);
  for (const [name, rows] of sheets) book.add(name, ['a', 'b', 'c'], width, rows);
  return book.finish();
}

/** What another reader finds in the cells of a sheet, its headings left out. */
async function readBack(bytes: Uint8Array, sheet = 1): Promise<Row[]> {
  const book = new excel.Workbook();
  await book.xlsx.load(Buffer.from(bytes) as never);
  const rows: Row[] = [];
  book.worksheets[sheet - 1]!.eachRow({ includeEmpty: true }, (row, number) => {
    const cell = (i: number): string | number | null => (row.getCell(i).value ?? null) as string;
    if (number > 1) rows.push([cell(1), cell(2), cell(3)]);
  });
  return rows;
}

test('texts and numbers are read by another program as they were written', async () => {
  // Signs of every kind that XML can hold, markup and blanks among them.
  const text = fc.string({
    unit: fc.constantFrom(...' \n\t<>&"\'=+_x0041_é字🚤\u200f'),
    minLength: 1,
    maxLength: 30
  });
  // The other reader drops blanks that stand alone and knows no escapes of signs.
  const plain = text.filter((words) => words.trim() === words && !/_x/.test(words));
  const number = fc.oneof(fc.integer(), fc.double({ noNaN: true, noDefaultInfinity: true }));
  const cell = fc.oneof(plain, number, fc.constant(null));
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(plain, cell, cell), { minLength: 1, maxLength: 20 }),
      async (rows) => {
        const same = rows.map((row) => row.map((value) => (Object.is(value, -0) ? 0 : value)));
        assert.deepEqual(await readBack(written([['Sheet', same]])), same);
      }
    ),
    { numRuns: 40 }
  );
});

test('signs that XML cannot hold stand escaped, and what looks like an escape stays what it is', async () => {
  const bytes = written([['Sheet', [['a\u0001b', 'line\r\nend', 'not _x0041_ but that']]]]);
  const [[control, line, lookalike] = []] = await readBack(bytes);
  assert.match(String(control), /a(_x0001_|\u0001)b/);
  assert.equal(line, 'line\r\nend');
  assert.match(String(lookalike), /not (_x005F)?_x0041_ but that/);
});

test('sheets keep their order, names and headings; the same content gives the same bytes', async () => {
  const sheets: [string, Row[]][] = [
    ['First & <best>', [['x', 1, null]]],
    ['Empty', []],
    ['Third', Array.from({ length: 70 }, (_, i): Row => [`row ${i}`, i, '='.repeat(i)])]
  ];
  const bytes = written(sheets);
  assert.deepEqual(written(sheets), bytes);
  const book = new excel.Workbook();
  await book.xlsx.load(Buffer.from(bytes) as never);
  assert.deepEqual(
    book.worksheets.map(({ name }) => name),
    sheets.map(([name]) => name)
  );
  const [first, empty, third] = book.worksheets;
  assert.equal(first!.getCell('A1').font.bold, true);
  assert.equal(first!.views[0]!.state, 'frozen');
  assert.equal(empty!.rowCount, 1);
  assert.equal(third!.getCell('B71').value, 69);
  assert.deepEqual(book.created, MADE);
});

test('columns past the letter Z are named', async () => {
  const book = new Workbook(MADE);
  const columns = Array.from({ length: 60 }, (_, i) => `c${i}`);
  book.add('Wide', columns, width, [columns.map((_, i) => i)]);
  const read = new excel.Workbook();
  await read.xlsx.load(Buffer.from(book.finish()) as never);
  assert.equal(read.worksheets[0]!.getCell('AA2').value, 26);
  assert.equal(read.worksheets[0]!.getCell('BH2').value, 59);
});
