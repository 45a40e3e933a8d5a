import type { Production } from '../model';
import { textFile, type FormatContext, type ProducedFile } from './format';
import { MESSAGE_COLUMNS, messageRows } from './rows';
import {
  CALL_COLUMNS,
  callRows,
  CONTACT_COLUMNS,
  contactRows,
  FILE_COLUMNS,
  fileRows,
  type Row
} from './sheets';

/** Tables of all chosen lines, calls, contacts and files, RFC 4180 with a byte order mark, so that spreadsheets read them as UTF-8. Of calls, contacts and files there is a table where there are some. */
export function* produceCsv(
  production: Production,
  context: FormatContext
): Generator<ProducedFile> {
  const { calls, contacts } = production;
  yield table('messages.csv', MESSAGE_COLUMNS, messageRows(production, context));
  if (calls.length > 0) yield table('calls.csv', CALL_COLUMNS, callRows(production, context));
  if (contacts.length > 0) yield table('contacts.csv', CONTACT_COLUMNS, contactRows(production));
  const rows = [...fileRows(production, context)];
  if (rows.length > 0) yield table('files.csv', FILE_COLUMNS, rows);
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
