import type { TextLine } from '../entries';
import { linesOf } from '../text';
import { tableOf, type LogRow, type LogTable } from './types';

const LEAST_ROWS = 3;
/** A time, somebody and a text. */
const LEAST_FIELDS = 3;
const MOST_FIELDS = 40;
const SEPARATORS = ['\t', '|', ';'];
/** Share of the lines that must have all fields. */
const MOSTLY = 0.9;

/**
 * Reads lines of fields without headings. The last field takes what is left
 * of a line, since what people write may hold the separator. Fields are named
 * as columns whose names are lost.
 */
export function fieldsTable(bytes: Uint8Array, path: string): LogTable | null {
  const lines = linesOf(bytes).filter(({ text }) => text.trim() !== '');
  if (lines.length < LEAST_ROWS) return null;
  for (const separator of SEPARATORS) {
    const count = usualCount(lines, separator);
    if (count < LEAST_FIELDS || count > MOST_FIELDS) continue;
    const rows = lines.flatMap((line) => rowOf(line, separator, count) ?? []);
    if (rows.length >= lines.length * MOSTLY) return tableOf('rows', path, rows);
  }
  return null;
}

/** The number of fields that nearly all lines have at least. */
function usualCount(lines: readonly TextLine[], separator: string): number {
  const counts = lines.map(({ text }) => separatorsIn(text, separator) + 1).sort((a, b) => a - b);
  return counts[Math.floor(counts.length * (1 - MOSTLY))]!;
}

function separatorsIn(text: string, separator: string): number {
  let count = 0;
  for (let at = text.indexOf(separator); at >= 0; at = text.indexOf(separator, at + 1)) count++;
  return count;
}

function rowOf(
  { text, offset, length }: TextLine,
  separator: string,
  count: number
): LogRow | null {
  const fields = new Map<string, string>();
  let at = 0;
  for (let i = 1; i < count; i++) {
    const end = text.indexOf(separator, at);
    if (end < 0) return null;
    fields.set(`column${i}`, text.slice(at, end).trim());
    at = end + 1;
  }
  // A blank beside a separator belongs to it, one further on to what was written.
  fields.set(`column${count}`, text.slice(at).replace(/^ | $/g, ''));
  return { fields, offset, length };
}
