import { isPlainText, plainTime, type PlainRows, type RecordCursor } from '../profiles';

/** Names, by key or unique value, of messages that others answer; null where any may be. */
export type Asked = ReadonlySet<string> | null;

/** When a row was sent; undefined where the row has to be read as a message. */
export function ordinaryMoment(rows: PlainRows, cursor: RecordCursor): number | null | undefined {
  return isPlainText(cursor, rows.body) ? plainTime(rows.sentAt, cursor, rows) : undefined;
}

/** Whether another message answers a row, so that its name has to be remembered. */
export function isAskedFor(
  asked: Asked,
  rows: PlainRows,
  cursor: RecordCursor,
  rowid: number | null
): boolean {
  if (asked === null) return true;
  if (asked.size === 0) return false;
  if (rowid !== null && asked.has(String(rowid))) return true;
  const { unique, encoding } = rows;
  return unique >= 0 && asked.has(String(cursor.value(unique, encoding)));
}
