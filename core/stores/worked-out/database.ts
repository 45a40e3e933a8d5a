import type { Database, SqlValue, TableSchema } from '../../sqlite';
import { KEY_ROWS, SampledTable } from './sample';
import { workOut, type WorkedOut } from './work-out';

const MOST_TABLES = 200;

/** Samples the tables of a database one by one. */
export function* samplesOf(database: Database): Generator<SampledTable> {
  const virtual = database.schema
    .filter(({ sql }) => /^\s*create\s+virtual\s+table/i.test(sql ?? ''))
    .map(({ name }) => `${name.toLowerCase()}_`);
  // A search index keeps its own copies of the texts, in tables named after it.
  const own = database.tables.filter(
    ({ name }) =>
      !/^sqlite_/i.test(name) && !virtual.some((start) => name.toLowerCase().startsWith(start))
  );
  for (const schema of own.slice(0, MOST_TABLES)) yield sampleOf(database, schema);
}

/** Samples the tables of a database and works out a profile; yields between tables. */
export function* workOutDatabase(database: Database): Generator<void, WorkedOut | null> {
  const tables: SampledTable[] = [];
  for (const table of samplesOf(database)) {
    tables.push(table);
    yield;
  }
  return workOut(tables);
}

function sampleOf(database: Database, schema: TableSchema): SampledTable {
  const rows: SqlValue[][] = [];
  let complete = true;
  for (const row of database.rows(schema)) {
    if (rows.length >= KEY_ROWS) {
      complete = false;
      break;
    }
    rows.push(row.values);
  }
  return new SampledTable(schema, rows, complete);
}
