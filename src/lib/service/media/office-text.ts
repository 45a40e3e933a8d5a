import { unzipSync } from 'fflate';
import { readMarkup } from '$core/host';

/** Bytes to which one part may grow: texts are small, and a packed one could be made to overwhelm. */
const MOST_PART = 64 * 1024 * 1024;
const MOST_PARTS = 400;

/** A kind of document that is a package of XML parts, and how its words stand in them. */
interface Dialect {
  /** Parts that hold words, in whatever order they lie in the package. */
  parts: RegExp;
  /** Elements whose text counts; null where all text inside a paragraph does. */
  words: ReadonlySet<string> | null;
  paragraphs: ReadonlySet<string>;
  cells: ReadonlySet<string>;
  rows: ReadonlySet<string>;
  tabs: ReadonlySet<string>;
  breaks: ReadonlySet<string>;
}

const NONE: ReadonlySet<string> = new Set();

/** ECMA-376, parts 1 (WordprocessingML, DrawingML); OASIS OpenDocument 1.3, part 3. */
const DIALECTS: readonly [type: RegExp, dialect: Dialect][] = [
  [
    /wordprocessingml/,
    {
      parts: /^word\/(document|footnotes|endnotes|comments)\.xml$/,
      words: new Set(['w:t']),
      paragraphs: new Set(['w:p']),
      cells: new Set(['w:tc']),
      rows: new Set(['w:tr']),
      tabs: new Set(['w:tab']),
      breaks: new Set(['w:br', 'w:cr'])
    }
  ],
  [
    /presentationml/,
    {
      parts: /^ppt\/(slides|notesSlides)\/[a-zA-Z]+\d+\.xml$/,
      words: new Set(['a:t']),
      paragraphs: new Set(['a:p']),
      cells: new Set(['a:tc']),
      rows: new Set(['a:tr']),
      tabs: NONE,
      breaks: new Set(['a:br'])
    }
  ],
  [
    /opendocument\.(text|spreadsheet|presentation)/,
    {
      parts: /^content\.xml$/,
      words: null,
      paragraphs: new Set(['text:p', 'text:h']),
      cells: new Set(['table:table-cell']),
      rows: new Set(['table:table-row']),
      tabs: new Set(['text:tab']),
      breaks: new Set(['text:line-break'])
    }
  ]
];

/**
 * The words of a word processor's, spreadsheet's or presentation's file, paragraph by paragraph,
 * with a tab between the cells of a table; null where the type is no such file, or it is damaged.
 * @param type the file's type, by its content.
 */
export function officeText(bytes: Uint8Array, type: string): string | null {
  try {
    if (/spreadsheetml/.test(type)) return sheetsOf(bytes);
    const dialect = DIALECTS.find(([known]) => known.test(type))?.[1];
    return dialect ? wordsOf(bytes, dialect) : null;
  } catch (error) {
    // What cannot be unpacked has no words that can be shown.
    if (isDamage(error)) return null;
    throw error;
  }
}

/** Damage as the unpacker tells it: by a number of its own, or by a size that no memory has. */
function isDamage(error: unknown): boolean {
  return error instanceof RangeError || (error instanceof Error && 'code' in error);
}

/** Parts of a package by their names, in the order of the numbers in them. */
function partsOf(bytes: Uint8Array, wanted: RegExp): [name: string, text: string][] {
  let left = MOST_PARTS;
  const found = unzipSync(bytes, {
    filter: ({ name, originalSize }) => wanted.test(name) && originalSize <= MOST_PART && left-- > 0
  });
  return Object.entries(found)
    .sort(([a], [b]) => a.localeCompare(b, 'en', { numeric: true }))
    .map(([name, part]) => [name, new TextDecoder().decode(part)]);
}

function wordsOf(bytes: Uint8Array, dialect: Dialect): string {
  return partsOf(bytes, dialect.parts)
    .map(([, xml]) => wordsIn(xml, dialect))
    .filter((text) => text !== '')
    .join('\n\n');
}

/** Goes through a part and writes down its words. */
function wordsIn(xml: string, dialect: Dialect): string {
  const { words, paragraphs, cells, rows, tabs, breaks } = dialect;
  let text = '';
  const depth = { words: 0, paragraph: 0, cell: 0 };
  const step = (name: string, by: 1 | -1): void => {
    if (words?.has(name)) depth.words += by;
    if (paragraphs.has(name)) depth.paragraph += by;
    if (cells.has(name)) depth.cell += by;
  };
  parse(xml, {
    begin(name) {
      step(name, 1);
      if (tabs.has(name)) text += '\t';
      else if (breaks.has(name)) text += '\n';
      else if (name === 'text:s') text += ' ';
    },
    words(part) {
      if (words === null ? depth.paragraph > 0 : depth.words > 0) text += part;
    },
    end(name) {
      step(name, -1);
      if (cells.has(name)) text += '\t';
      else if (rows.has(name)) text = `${text.replace(/\t+$/, '')}\n`;
      else if (paragraphs.has(name)) text += depth.cell > 0 ? ' ' : '\n';
    }
  });
  return text
    .replace(/ +(?=[\t\n])/g, '')
    .replace(/\n{3,}/g, '\n\n')
    .trim();
}

interface Listener {
  begin: (name: string, attributes: Record<string, string>) => void;
  words: (text: string) => void;
  end: (name: string) => void;
}

function parse(xml: string, { begin, words, end }: Listener): void {
  readMarkup(xml, { open: begin, text: words, close: end }, { isXml: true });
}

/** Rows of a workbook's sheets, cells with a tab between them. ECMA-376, part 1, section 18. */
function sheetsOf(bytes: Uint8Array): string {
  const parts = partsOf(bytes, /^xl\/(sharedStrings|worksheets\/sheet\d+)\.xml$/);
  const shared = sharedStrings(parts.find(([name]) => name.endsWith('sharedStrings.xml'))?.[1]);
  return parts
    .filter(([name]) => name.includes('worksheets/'))
    .map(([, xml], at) => `Sheet ${at + 1}\n${rowsIn(xml, shared)}`)
    .join('\n\n')
    .trim();
}

function sharedStrings(xml: string | undefined): string[] {
  const strings: string[] = [];
  let isText = false;
  if (xml !== undefined)
    parse(xml, {
      begin(name) {
        if (name === 'si') strings.push('');
        isText = name === 't';
      },
      words(text) {
        if (isText) strings[strings.length - 1] += text;
      },
      end() {
        isText = false;
      }
    });
  return strings;
}

function rowsIn(xml: string, shared: readonly string[]): string {
  const rows: string[] = [];
  let cells: string[] = [];
  let cell = { column: 0, type: '', text: '' };
  let isText = false;
  parse(xml, {
    begin(name, { r = '', t = '' }) {
      if (name === 'row') cells = [];
      if (name === 'c') cell = { column: columnOf(r) ?? cells.length, type: t, text: '' };
      isText = name === 'v' || name === 't';
    },
    words(text) {
      if (isText) cell.text += text;
    },
    end(name) {
      isText = false;
      if (name === 'c')
        cells[cell.column] = cell.type === 's' ? (shared[Number(cell.text)] ?? '') : cell.text;
      if (name === 'row') rows.push(Array.from(cells, (text) => text ?? '').join('\t'));
    }
  });
  return rows.join('\n');
}

/** Columns past which a cell's place is not taken at its word. */
const MOST_COLUMNS = 16_384;

/** The number of the column in a reference like `AB12`, from 0; null where it names none. */
function columnOf(reference: string): number | null {
  const letters = /^[A-Z]{1,3}/.exec(reference)?.[0];
  if (letters === undefined) return null;
  const column = [...letters].reduce((n, letter) => n * 26 + letter.charCodeAt(0) - 64, 0) - 1;
  return column < MOST_COLUMNS ? column : null;
}
