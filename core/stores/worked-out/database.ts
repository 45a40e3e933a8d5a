import type { Database, SqlValue, TableSchema } from '../../sqlite';
import { KEY_ROWS, SampledTable } from './sample';
import { workOut, type WorkedOut } from './work-out';

const MOST_TABLES = 200;

/** Samples the tables of a database one by one. */
export function* samplesOf(database: Database): Generator<SampledTable> {
  for (const schema of database.tables.slice(0, MOST_TABLES)) {
    if (!/^sqlite_/i.test(schema.name)) yield sampleOf(database, schema);
  }
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
