import type { TextLine } from '../entries';
import { linesOf } from '../text';
import { columnNames, plainHeadings } from './headings';
import { withPlainMoments } from './moments';
import { tableOf, type LogRow, type LogTable } from './types';

const LEAST_ROWS = 3;
const SEPARATORS = [',', ';', '\t', '|'];

interface Record {
  cells: string[];
  offset: number;
  length: number;
}

/** Reads a table with a line of headings; cells in quotes may hold separators and line ends (RFC 4180). */
export function csvTable(bytes: Uint8Array, path: string): LogTable | null {
  for (const { separator, headings } of headingsIn(bytes)) {
    const records = [...recordsOf(bytes, separator)].slice(1);
    const whole = records.filter(({ cells }) => cells.length === headings.length);
    if (whole.length < LEAST_ROWS || whole.length < records.length * 0.9) continue;
    const names = columnNames(headings);
    const columns = names.map((_, i) => withPlainMoments(whole.map(({ cells }) => cells[i]!)));
    const rows = whole.map(({ offset, length }, row): LogRow => ({
      fields: new Map(names.map((name, i) => [name, columns[i]![row]!])),
      offset,
      length
    }));
    return tableOf('rows', path, rows);
  }
  return null;
}

/** A first line as headings, by the separators with which it can be read as some. */
function headingsIn(bytes: Uint8Array): { separator: string; headings: string[] }[] {
  const [first] = linesOf(bytes.subarray(0, 4096));
  if (!first) return [];
  return SEPARATORS.map((separator) => ({
    separator,
    headings: split(first.text, separator)
  })).filter(
    ({ headings }) =>
      headings.length >= LEAST_COLUMNS && headings.every((cell) => HEADING.test(cell))
  );
}

const LEAST_COLUMNS = 3;
const HEADING = /^[\p{L}_][\p{L}\p{M}\p{N}_ .()/’ʼ'-]*$/u;

/** Whether a text begins with headings that say what its columns are, so that its lines are no lines of a log. */
export function isSheet(bytes: Uint8Array): boolean {
  return headingsIn(bytes).some(({ headings }) => plainHeadings(headings) >= LEAST_COLUMNS);
}

function split(line: string, separator: string): string[] {
  return line.split(separator).map((cell) =>
    cell
      .trim()
      .replace(/^"(.*)"$/s, '$1')
      .replaceAll('""', '"')
  );
}

/** A record that goes over more lines than this has lost a quotation mark. */
const MOST_LINES = 2000;

/** Records of the whole file; a quotation mark that is open at a line's end takes the next line too. */
function* recordsOf(bytes: Uint8Array, separator: string): Generator<Record> {
  let open: TextLine[] = [];
  let quoted = false;
  for (const line of linesOf(bytes)) {
    open.push(line);
    if (marksIn(line.text) % 2 === 1) quoted = !quoted;
    if (quoted && open.length < MOST_LINES) continue;
    const record = recordOf(open, separator);
    if (record) yield record;
    open = [];
    quoted = false;
  }
}

function marksIn(text: string): number {
  let count = 0;
  for (let at = text.indexOf('"'); at >= 0; at = text.indexOf('"', at + 1)) count++;
  return count;
}

function recordOf(lines: readonly TextLine[], separator: string): Record | null {
  const [first, last] = [lines[0]!, lines[lines.length - 1]!];
  const text = lines.map((line) => line.text).join('\n');
  if (text === '') return null;
  const { offset } = first;
  return { cells: cellsOf(text, separator), offset, length: last.offset + last.length - offset };
}

function cellsOf(text: string, separator: string): string[] {
  const cells: string[] = [];
  let cell = '';
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const char = text[i]!;
    if (char === '"' && quoted && text[i + 1] === '"') {
      cell += '"';
      i++;
    } else if (char === '"') quoted = !quoted;
    else if (char === separator && !quoted) {
      cells.push(cell);
      cell = '';
    } else cell += char;
  }
  return [...cells, cell];
}
