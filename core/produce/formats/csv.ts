import type { Production } from '../model';
import { textFile, type FormatContext, type ProducedFile } from './format';
import { MESSAGE_COLUMNS, messageRows } from './rows';
import { SHEETS, type Row, type Sheet } from './sheets';

/** Tables of all chosen lines, calls, contacts and files, RFC 4180 with a byte order mark, so that spreadsheets read them as UTF-8. Of calls, contacts and files there is a table where there are some. */
export function* produceCsv(
  production: Production,
  context: FormatContext
): Generator<ProducedFile> {
  yield table('messages.csv', MESSAGE_COLUMNS, messageRows(production, context));
  const sheets: [name: string, sheet: Sheet][] = Object.entries(SHEETS);
  for (const [name, { columns, rows }] of sheets) {
    const all = [...rows(production, context)];
    if (all.length > 0) yield table(`${name}.csv`, columns, all);
  }
}

function table(path: string, columns: readonly string[], rows: Iterable<Row>): ProducedFile {
  const lines = [columns.join(',')];
  for (const row of rows) lines.push(row.map((value) => csvField(String(value ?? ''))).join(','));
  return textFile(path, `\ufeff${lines.join('\r\n')}\r\n`);
}

/** A value as RFC 4180 writes it. */
export function csvField(value: string): string {
  return /[",\r\n]/.test(value) || value !== value.trim()
    ? `"${value.replaceAll('"', '""')}"`
    : value;
}
