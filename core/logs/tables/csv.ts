import { linesOf } from '../text';
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
  const [first] = linesOf(bytes.subarray(0, 4096));
  if (!first) return null;
  for (const separator of SEPARATORS) {
    const headings = split(first.text, separator);
    if (
      headings.length < 3 ||
      !headings.every((cell) => /^[\p{L}_][\p{L}\p{N}_ .()/-]*$/u.test(cell))
    )
      continue;
    const records = [...recordsOf(bytes, separator)].slice(1);
    const whole = records.filter(({ cells }) => cells.length === headings.length);
    if (whole.length < LEAST_ROWS || whole.length < records.length * 0.9) continue;
    const names = headings.map((cell) => cell.toLowerCase().replace(/\W+/g, '_'));
    const rows = whole.map(({ cells, offset, length }): LogRow => ({
      fields: new Map(names.map((name, i) => [name, cells[i]!])),
      offset,
      length
    }));
    return tableOf('rows', path, rows);
  }
  return null;
}

function split(line: string, separator: string): string[] {
  return line.split(separator).map((cell) =>
    cell
      .trim()
      .replace(/^"(.*)"$/s, '$1')
      .replaceAll('""', '"')
  );
}

/** Records of the whole file; a quote that is open at a line's end takes the next line too. */
function* recordsOf(bytes: Uint8Array, separator: string): Generator<Record> {
  let open: { text: string; offset: number } | null = null;
  for (const { text, offset, length } of linesOf(bytes)) {
    const joined: { text: string; offset: number } = open
      ? { text: `${open.text}\n${text}`, offset: open.offset }
      : { text, offset };
    open = null;
    if ((joined.text.match(/"/g)?.length ?? 0) % 2 === 1) open = joined;
    else if (joined.text !== '') {
      yield {
        cells: cellsOf(joined.text, separator),
        offset: joined.offset,
        length: offset + length - joined.offset
      };
    }
  }
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
