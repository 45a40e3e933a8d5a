import { tablesInText, type LogTable } from '../logs';
import type { TreeFile } from '../packages';
import { tableSchema, type TableSchema } from '../sqlite';
import {
  fittingProfiles,
  READ_FROM,
  readStore,
  SampledTable,
  TableSet,
  workOut,
  type Choice,
  type ReadableTable,
  type StoreReading
} from '../stores';
import { openNow } from './attachments';

/** A structured log that a profile reads. */
export interface ReadLog {
  path: string;
  choice: Choice;
  reading: StoreReading;
}

const MOST_BYTES = 96 << 20;
const PARTIES =
  /(chat|conversation|thread|room|channel|dialog|group|peer|address|number|phone|contact|to)/i;
/** Column that tells conversations apart where a log is one conversation. */
const FILE_COLUMN = 'chat_file';

/** Reads the tables of a structured text, each by a known profile or by one that is worked out. */
export function readTables(file: TreeFile): ReadLog[] {
  if (file.mark !== 'text' || (file.file.size ?? 0) > MOST_BYTES) return [];
  const source = openNow(file.file);
  if (!source) return [];
  const { path } = file.file;
  return tablesInText(source.read(0, source.size), path).flatMap(readTable);
}

function readTable(log: LogTable): ReadLog[] {
  const whole = log.columns.some((column) => PARTIES.test(column)) ? log : withFile(log);
  const schema = schemaOf(whole);
  if (!schema) return [];
  const [known] = fittingProfiles([schema]);
  const rows = whole.rows.map(({ values }) => values);
  const choice = known ?? workOut([new SampledTable(schema, rows, true)]);
  if (!choice || choice.fit < READ_FROM) return [];
  const work = readStore(choice.profile, new TableSet([readable(whole, schema)]));
  let step = work.next();
  while (!step.done) step = work.next();
  return [{ path: log.path, choice, reading: step.value }];
}

function withFile(log: LogTable): LogTable {
  return {
    ...log,
    columns: [...log.columns, FILE_COLUMN],
    rows: log.rows.map((row) => ({ ...row, values: [...row.values, log.path] }))
  };
}

/** A declaration with the log's columns, so that profiles see a table like any other. */
function schemaOf({ name, columns, rows }: LogTable): TableSchema | null {
  const table = name === 'call' ? 'calls' : name;
  const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;
  const list = columns.map((column, i) => {
    const number = rows.some(({ values }) => typeof values[i] === 'number');
    return `${quoted(column)} ${number ? 'NUMERIC' : 'TEXT'}`;
  });
  const sql = `CREATE TABLE ${quoted(table)} (${list.join(', ')})`;
  return tableSchema({ type: 'table', name: table, table, root: 1, sql });
}

function readable(log: LogTable, schema: TableSchema): ReadableTable {
  const live = log.rows.map(({ values, offset, length }, i) => ({
    rowid: i + 1,
    values,
    page: 0,
    file: log.path,
    offset,
    length,
    hash: 0,
    stored: values.length
  }));
  return { schema, dropped: false, live, freed: [], method: 'text' };
}
