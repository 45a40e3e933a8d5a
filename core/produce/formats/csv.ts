import type { Production } from '../model';
import { textFile, type FormatContext, type ProducedFile } from './format';
import { MESSAGE_COLUMNS, messageRows } from './rows';

/** One table of all chosen lines, RFC 4180 with a byte order mark, so that spreadsheets read it as UTF-8. */
export function* produceCsv(
  production: Production,
  context: FormatContext
): Generator<ProducedFile> {
  const lines = [MESSAGE_COLUMNS.join(',')];
  for (const row of messageRows(production, context)) lines.push(row.map(csvField).join(','));
  yield textFile('messages.csv', `\ufeff${lines.join('\r\n')}\r\n`);
}

/** A value as RFC 4180 writes it. */
export function csvField(value: string): string {
  return /[",\r\n]/.test(value) || value !== value.trim()
    ? `"${value.replaceAll('"', '""')}"`
    : value;
}
