import { Database, type SqlValue, type TableSchema } from '../../sqlite';
import { KEY_ROWS, SampledTable } from './sample';
import { workOut, type WorkedOut } from './work-out';

export type { WorkedOut } from './work-out';
export { SampledTable } from './sample';
export { workOut } from './work-out';

/** From here on a worked-out profile is read; below it is only offered. */
export const READ_FROM = 60;
/** Below this it is not even worth offering. */
export const OFFER_FROM = 30;

const MOST_TABLES = 200;

/** Samples the tables of a database and works out a profile; yields between tables. */
export function* workOutDatabase(database: Database): Generator<void, WorkedOut | null> {
  const tables: SampledTable[] = [];
  for (const schema of database.tables.slice(0, MOST_TABLES)) {
    if (/^sqlite_/i.test(schema.name)) continue;
    tables.push(sampleOf(database, schema));
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
