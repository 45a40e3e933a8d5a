import type { Production } from '../model';
import { shown } from '../parts';
import { wholeCharacters } from '../redact/match';
import type { FormatContext, ProducedFile } from './format';
import { inert, MESSAGE_COLUMNS, messageRows } from './rows';
import { SHEETS, type Row } from './sheets';
import { Workbook } from './workbook';

/** Characters that a cell can hold (Office Open XML, part 1, 18.4). */
const MOST_LETTERS = 32_767;
/** Rows of a sheet, its headings included. */
const MOST_ROWS = 1_048_576;

/** A workbook with a sheet each of messages, calls, contacts, gaps, sources and files; every cell is a text or a number. */
export function* produceXlsx(
  production: Production,
  context: FormatContext
): Generator<ProducedFile> {
  const book = new Workbook(new Date(production.head.made));
  addSheets(book, 'Messages', MESSAGE_COLUMNS, numbered(messageRows(production, context)));
  addSheets(book, 'Calls', SHEETS.calls.columns, SHEETS.calls.rows(production, context));
  addSheets(book, 'Contacts', SHEETS.contacts.columns, SHEETS.contacts.rows(production));
  addSheets(book, 'Gaps', GAP_COLUMNS, gapRows(production));
  addSheets(book, 'Sources', SOURCE_COLUMNS, sourceRows(production));
  // The files of lines are told beside them; a sheet of their own is for those that stand by themselves.
  if (production.files.length > 0)
    addSheets(book, 'Files', SHEETS.files.columns, SHEETS.files.rows(production, context));
  yield { path: 'messages.xlsx', bytes: book.finish() };
}

/** Line numbers and certainty as numbers, to be sorted by. */
function* numbered(rows: Iterable<string[]>): Generator<Row> {
  const [line, certainty] = [0, MESSAGE_COLUMNS.indexOf('certainty')];
  for (const row of rows)
    yield row.map((value, i) => (i === line || i === certainty ? Number(value) : value));
}

const GAP_COLUMNS = ['thread', 'before_line', 'missing', 'from_utc', 'to_utc', 'reason'];

function* gapRows({ threads, gaps }: Production): Generator<Row> {
  const iso = (at: number | null): string => (at === null ? '' : new Date(at).toISOString());
  for (const { title, lines, gapsBefore, gapsAtEnd } of threads) {
    const name = inert(shown(title));
    for (const line of lines)
      for (const gap of gapsBefore.get(line.id) ?? [])
        yield [name, line.number, gap.count, iso(gap.from), iso(gap.to), inert(gap.reason)];
    for (const gap of gapsAtEnd)
      yield [name, null, gap.count, iso(gap.from), iso(gap.to), inert(gap.reason)];
  }
  for (const { who, count, from, to, reason } of gaps)
    yield [inert(shown(who ?? [])), null, count, iso(from), iso(to), inert(reason)];
}

const SOURCE_COLUMNS = ['source', 'kind', 'bytes', 'sha256', 'depth'];

function* sourceRows({ sources }: Production): Generator<Row> {
  for (const { name, kind, bytes, sha256, depth } of sources)
    yield [inert(name), inert(kind), bytes, sha256, depth];
}

/** Rows that one sheet cannot hold go on in the next. */
function addSheets(
  book: Workbook,
  name: string,
  columns: readonly string[],
  rows: Iterable<Row>
): void {
  const all = rows[Symbol.iterator]();
  let next = all.next();
  const some = function* (): Generator<Row> {
    // The headings take a row too.
    for (let count = 1; count < MOST_ROWS && !next.done; count++) {
      yield next.value.map(fitting);
      next = all.next();
    }
  };
  book.add(name, columns, widthOf, some());
  for (let number = 2; !next.done; number++)
    book.add(`${name} ${number}`, columns, widthOf, some());
}

const WIDTHS: Record<string, number> = {
  body: 70,
  proof: 50,
  thread: 24,
  sha256: 66,
  note: 40,
  reason: 40,
  attachments: 24
};

function widthOf(column: string): number {
  return WIDTHS[column] ?? 16;
}

function fitting(value: string | number | null): string | number | null {
  if (typeof value !== 'string' || value.length <= MOST_LETTERS) return value;
  const note = ` [… ${value.length - MOST_LETTERS + 100} more characters, which no cell can hold]`;
  // No half of a character is left at the end.
  const { to } = wholeCharacters(value, 0, MOST_LETTERS - 200);
  return value.slice(0, Math.min(to, MOST_LETTERS - 100)) + note;
}
