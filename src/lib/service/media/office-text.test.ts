import assert from 'node:assert/strict';
import { test } from 'node:test';
import Excel from 'exceljs';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { officeText } from './office-text';

const WORDS = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document';
const SHEETS = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
const SLIDES = 'application/vnd.openxmlformats-officedocument.presentationml.presentation';
const OPEN_TEXT = 'application/vnd.oasis.opendocument.text';

function packed(parts: Record<string, string>): Uint8Array {
  return zipSync(Object.fromEntries(Object.entries(parts).map(([k, v]) => [k, strToU8(v)])));
}

const CASES: [says: string, type: string, parts: Record<string, string>, text: string | null][] = [
  [
    'paragraphs, tabs, breaks and what was deleted by its writer',
    WORDS,
    {
      'word/document.xml':
        '<w:document><w:body><w:p><w:r><w:t>Offer &amp; terms</w:t></w:r></w:p>' +
        '<w:p><w:r><w:t>Oak</w:t><w:tab/><w:t>40,000</w:t><w:br/><w:t>in cash</w:t></w:r>' +
        '<w:del><w:r><w:delText>gone</w:delText></w:r></w:del></w:p></w:body></w:document>',
      'word/styles.xml': '<w:styles><w:t>no words</w:t></w:styles>'
    },
    'Offer & terms\nOak\t40,000\nin cash'
  ],
  [
    'a table, row by row',
    WORDS,
    {
      'word/document.xml':
        '<w:tbl><w:tr><w:tc><w:p><w:t>a</w:t></w:p></w:tc><w:tc><w:p><w:t>b</w:t></w:p></w:tc></w:tr>' +
        '<w:tr><w:tc><w:p><w:t>c</w:t></w:p></w:tc></w:tr></w:tbl>'
    },
    'a\tb\nc'
  ],
  [
    'notes below the text',
    WORDS,
    {
      'word/footnotes.xml': '<w:p><w:t>by hand</w:t></w:p>',
      'word/document.xml': '<w:p><w:t>The slip</w:t></w:p>'
    },
    'The slip\n\nby hand'
  ],
  [
    'slides in the order of their numbers',
    SLIDES,
    {
      'ppt/slides/slide10.xml': '<a:p><a:r><a:t>ten</a:t></a:r></a:p>',
      'ppt/slides/slide2.xml': '<a:p><a:r><a:t>two</a:t></a:r></a:p>'
    },
    'two\n\nten'
  ],
  [
    'headings, spans and blanks of an open document',
    OPEN_TEXT,
    {
      'content.xml':
        '<office:body><text:h>Launch</text:h><text:p>at <text:span>nine</text:span><text:s/>sharp' +
        '<text:line-break/>Quay 4</text:p><table:table-row><table:table-cell><text:p>x</text:p>' +
        '</table:table-cell><table:table-cell><text:p>y</text:p></table:table-cell></table:table-row></office:body>'
    },
    'Launch\nat nine sharp\nQuay 4\nx\ty'
  ],
  ['another type of file', 'application/zip', { 'word/document.xml': '<w:t>x</w:t>' }, null]
];
for (const [says, type, parts, text] of CASES)
  test(`of a document: ${says}`, () => assert.equal(officeText(packed(parts), type), text));

test('a workbook’s rows are read as its writer wrote them', async () => {
  const book = new Excel.Workbook();
  book.addWorksheet('Paid').addRows([
    ['Who', 'How much', 'When'],
    ['Halvard', 40_000, null, 'in cash'],
    [null, 'half']
  ]);
  book.addWorksheet('Due').addRow(['nothing']);
  const bytes = new Uint8Array(await book.xlsx.writeBuffer());
  assert.equal(
    officeText(bytes, SHEETS),
    'Sheet 1\nWho\tHow much\tWhen\nHalvard\t40000\t\tin cash\n\thalf\n\nSheet 2\nnothing'
  );
});

test('damaged packages have no words, and none takes long', () => {
  const whole = packed({ 'word/document.xml': `<w:p><w:t>${'word '.repeat(200)}</w:t></w:p>` });
  fc.assert(
    fc.property(fc.nat(whole.length - 1), fc.nat(255), (at, value) => {
      const bytes = Uint8Array.from(whole);
      bytes[at] = value;
      const text = officeText(bytes, WORDS);
      assert.ok(text === null || typeof text === 'string');
      assert.equal(officeText(bytes.subarray(0, at), WORDS) ?? '', '');
    }),
    { numRuns: 200 }
  );
});
