import { placeOf, tablesInText, type LogTable } from '../../formats/textlog';
import type { TreeFile } from '../../formats';
import type { GlancedPart } from '../../records';
import { tableSchema, type LiveRow, type TableSchema } from '../../sqlite';
import {
  fittingProfiles,
  inZone,
  READ_FROM,
  readStore,
  readsZoneless,
  SampledTable,
  TableSet,
  workOut,
  type Choice,
  type ReadableTable,
  type StoreReading
} from '../../profiles';
import { openNow } from '../attachments';
import type { Examination } from '../examination';
import type { PassEvent } from '../types';
import {
  isLong,
  LOG_LIMIT,
  MOST_LOOKED,
  textPart,
  textsIn,
  zoneSentence,
  type StoreReader
} from './reader';

/** A structured log that a profile reads, in one file or in several alike. */
interface ReadLog {
  path: string;
  files: TreeFile[];
  choice: Choice;
  reading: StoreReading;
  /** Its times are written without a zone. */
  isZoneless: boolean;
}

const MOST_BYTES = 96 << 20;
const PARTIES =
  /(chat|conversation|thread|room|channel|dialog|group|peer|address|number|phone|contact|to)/i;
/** Column that tells conversations apart where a log is one conversation. */
const FILE_COLUMN = 'chat_file';

/** Tables of files that one program wrote of the same things. */
interface LogTables {
  path: string;
  tables: { table: LogTable; file: TreeFile }[];
}

/** The tables of a structured text; none where it is no such text. */
function tablesOfFile(file: TreeFile): LogTable[] {
  if (file.mark !== 'text' || (file.file.size ?? 0) > MOST_BYTES) return [];
  const source = openNow(file.file);
  return source ? tablesInText(source.read(0, source.size), file.file.path) : [];
}

/** Puts tables of the same columns in folders beside each other together: the conversations of one account. */
function grouped(found: readonly { table: LogTable; file: TreeFile }[]): LogTables[] {
  const groups = new Map<string, LogTables[]>();
  for (const { table, file } of found) {
    const key = JSON.stringify([placeOf(table.path).group, table.name]);
    const beside = groups.get(key) ?? [];
    const alike = beside.find(({ tables }) => areAlike(tables[0]!.table, table));
    if (alike) alike.tables.push({ table, file });
    else beside.push({ path: table.path, tables: [{ table, file }] });
    groups.set(key, beside);
  }
  return [...groups.values()].flat().filter(({ tables }) => {
    const rows = tables.reduce((sum, { table }) => sum + table.rows.length, 0);
    return rows >= LEAST_ROWS;
  });
}

/** Rows of which a log of one kind has at least so many, in all its files. */
const LEAST_ROWS = 3;
/** Share of the columns that tables of one kind have in common; entries without a picture lack its columns. */
const ALIKE = 0.5;

function areAlike(a: LogTable, b: LogTable): boolean {
  const own = new Set(a.columns);
  const shared = b.columns.filter((column) => own.has(column)).length;
  return shared >= Math.max(a.columns.length, b.columns.length) * ALIKE;
}

/** Reads tables by a known profile or by one that is worked out; null where none fits. */
function readTables(group: LogTables, zone: string): ReadLog | null {
  const shapes = shapesOf(group);
  const readings = shapes.flatMap((rows) => readRows(group, rows, zone) ?? []);
  const [plain, byFile] = readings;
  if (!plain) return null;
  const isByFile = byFile && (!isTalk(plain.reading) || isHeap(plain.reading, shapes[0]!));
  return isByFile ? byFile : plain;
}

/** The rows as they are, and with a column that says in which conversation's file they lie; where a column says of itself that it tells conversations apart, as they are. */
function shapesOf({ tables }: LogTables): Rows[] {
  const all = tables.map(({ table }) => table);
  const plain = rowsOf(all, false);
  const isNamed = plain.columns.some((column) => PARTIES.test(column));
  return isNamed && !isSplit(all) ? [rowsOf(all, false)] : [rowsOf(all, false), rowsOf(all, true)];
}

/** Whether files of several conversations are put together, of which no column tells which. */
function isSplit(tables: readonly LogTable[]): boolean {
  return new Set(tables.map(({ path }) => placeOf(path).key)).size > 1;
}

/** Share of the messages that are in conversations in which both sides write. */
const TWO_SIDED = 0.6;

/** Whether the conversations that a reading tells apart are some: where each has one side alone, writers were taken for them. */
function isTalk({ messages }: StoreReading): boolean {
  const sides = new Map<string, { directions: Set<string>; count: number }>();
  for (const { thread, direction } of messages) {
    const known = sides.get(thread.key) ?? { directions: new Set(), count: 0 };
    known.directions.add(direction);
    known.count++;
    sides.set(thread.key, known);
  }
  let talking = 0;
  for (const { directions, count } of sides.values())
    if (directions.has('incoming') && directions.has('outgoing')) talking += count;
  return talking >= messages.length * TWO_SIDED;
}

/** Share of the other parties that write in files of one conversation alone where each file is one. */
const MOSTLY_APART = 0.8;

/**
 * Whether everything was taken for one conversation although each of several
 * files has its own people: then the files are the conversations.
 */
function isHeap({ messages }: StoreReading, { rows }: Rows): boolean {
  if (new Set(messages.map(({ thread }) => thread.key)).size > 1) return false;
  const places = new Map<string, Set<string>>();
  for (const { direction, sender, rowid } of messages) {
    const row = rows[Number(rowid) - 1];
    if (direction !== 'incoming' || sender === null || !row) continue;
    const known = places.get(sender) ?? new Set();
    places.set(sender, known.add(placeOf(row.path).key));
  }
  const apart = [...places.values()].filter((keys) => keys.size === 1);
  return apart.length >= places.size * MOSTLY_APART;
}

function readRows(group: LogTables, rows: Rows, zone: string): ReadLog | null {
  const found = chosen(group, rows);
  if (!found || found.choice.fit < READ_FROM) return null;
  const { choice, schema } = found;
  const profile = inZone(choice.profile, zone);
  const set = new TableSet([readable(rows, schema)]);
  const reading = readStore(profile, set);
  const files = [...new Set(group.tables.map(({ file }) => file))];
  const isZoneless = readsZoneless(profile, set);
  return { path: group.path, files, choice, reading, isZoneless };
}

function chosen(
  { path, tables }: LogTables,
  rows: Rows
): { choice: Choice; schema: TableSchema } | null {
  const schema = schemaOf(tables[0]!.table.name, rows);
  if (!schema) return null;
  const [known] = fittingProfiles([schema]);
  const values = rows.rows.map((row) => row.values);
  const choice = known ?? workOut([new SampledTable(schema, values, true)], { path });
  return choice && { choice, schema };
}

interface Rows {
  columns: string[];
  rows: (LogTable['rows'][number] & { path: string })[];
}

/** Rows of all tables, with or without the conversation that their file is of. */
function rowsOf(tables: readonly LogTable[], withFile: boolean): Rows {
  const columns = columnsOf(tables);
  const rows = tables.flatMap(({ path, columns: own, rows }) => {
    const order = columns.map((column) => own.indexOf(column));
    const place = placeOf(path).name;
    return rows.map((row) => {
      const values = order.map((at) => row.values[at] ?? null);
      return { ...row, path, values: withFile ? [...values, place] : values };
    });
  });
  return { columns: withFile ? [...columns, FILE_COLUMN] : columns, rows };
}

/** Columns of all tables; what holds the entries tells nothing where it is the same in every file. */
function columnsOf(tables: readonly LogTable[]): string[] {
  const all = [...new Set(tables.flatMap(({ columns }) => columns))];
  if (!isSplit(tables)) return all;
  return all.filter((column) => {
    if (!AROUND.test(column)) return true;
    const values = new Set(
      tables.flatMap(({ columns, rows }) => {
        const at = columns.indexOf(column);
        return rows.map(({ values }) => values[at] ?? null);
      })
    );
    return values.size > 1;
  });
}

/** Columns of what stands around the entries. */
const AROUND = /^chat_/;

/** A declaration with the log's columns, so that profiles see a table like any other. */
function schemaOf(name: string, { columns, rows }: Rows): TableSchema | null {
  const table = name === 'call' ? 'calls' : name;
  const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;
  const list = columns.map((column, i) => {
    const number = rows.some(({ values }) => typeof values[i] === 'number');
    return `${quoted(column)} ${number ? 'NUMERIC' : 'TEXT'}`;
  });
  const sql = `CREATE TABLE ${quoted(table)} (${list.join(', ')})`;
  return tableSchema({ type: 'table', name: table, table, root: 1, sql });
}

function readable({ rows }: Rows, schema: TableSchema): ReadableTable {
  const live = rows.map(({ values, offset, length, path }, i): LiveRow => ({
    rowid: i + 1,
    values,
    page: 0,
    file: path,
    offset,
    length,
    hash: 0,
    stored: values.length
  }));
  return { schema, dropped: false, live, freed: [], method: 'text' };
}

export const TABLE_LOGS: StoreReader = {
  id: 'table-log',

  async *read(exam) {
    if (!exam.request.want.kinds.has('messages')) return;
    const found: { table: LogTable; file: TreeFile }[] = [];
    for (const file of exam.texts()) {
      if (exam.pace.due) await exam.pace.rest();
      try {
        for (const table of tablesOfFile(file)) found.push({ table, file });
      } catch (error) {
        yield exam.failed(error, file.file.path);
      }
    }
    for (const group of grouped(found)) {
      if (exam.pace.due) await exam.pace.rest();
      yield* exam.guard(readGroup(exam, group), undefined, group.path);
    }
  },

  async peek({ tree, zone, rest }) {
    const parts: GlancedPart[] = [];
    for (const text of textsIn(tree).slice(0, MOST_LOOKED)) {
      const part = isLong(text) ? null : seenTable(text, zone);
      if (part) parts.push(part);
      await rest();
    }
    return { parts, left: null };
  }
};

/** Reads tables that are alike, where a profile fits them. */
async function* readGroup(exam: Examination, group: LogTables): AsyncGenerator<PassEvent> {
  const { zone } = exam.request;
  const log = readTables(group, zone);
  if (!log) return;
  exam.isA('log');
  for (const file of log.files) exam.took(file);
  const { profile, fit, reasons } = log.choice;
  const zoned = log.isZoneless ? [zoneSentence(zone)] : [];
  const limits = [LOG_LIMIT, ...reasons, ...zoned];
  yield* exam.give({ path: log.path, profile: profile.id, fit, limits }, log.reading);
}

function seenTable(text: TreeFile, zone: string): GlancedPart | null {
  for (const group of grouped(tablesOfFile(text).map((table) => ({ table, file: text })))) {
    const read = readTables(group, zone);
    const times = read?.reading.messages.map(({ sentAt }) => sentAt) ?? [];
    if (times.length > 0) return textPart(text.file.path, 'text log', times, false);
  }
  return null;
}
