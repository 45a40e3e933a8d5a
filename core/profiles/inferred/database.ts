import type { Database, RecoveredTable, SqlValue, TableSchema } from '../../sqlite';
import { KEY_ROWS, SampledTable } from './sample';

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

/** Samples the tables of a database; yields between them. */
export function* sampleDatabase(database: Database): Generator<void, SampledTable[]> {
  const tables: SampledTable[] = [];
  for (const table of samplesOf(database)) {
    tables.push(table);
    yield;
  }
  return tables;
}

/** Tables with fewer live rows say too little by themselves. */
const FEW_ROWS = 50;

/** Tables of which most rows may be deleted and that could hold texts with their times. */
export function isThin(samples: readonly SampledTable[], schema: TableSchema): boolean {
  const sample = samples.find(({ name }) => name === schema.name);
  if (sample && sample.rows.length >= FEW_ROWS) return false;
  if (!sample && schema.root > 0) return false;
  const affinities = schema.columns.map(({ affinity }) => affinity);
  return affinities.length >= LEAST_COLUMNS && affinities.some((a) => a === 'text' || a === 'blob');
}

/** A text, a time and somebody. */
const LEAST_COLUMNS = 3;

/** Samples of which those of some tables are enriched by the rows that freed space holds of them. */
export function enriched(
  samples: readonly SampledTable[],
  recovered: readonly RecoveredTable[]
): SampledTable[] {
  const fuller = recovered.map(({ schema, live, freed }) => {
    const rows: SqlValue[][] = [];
    for (const { values } of live) rows.push(values);
    for (const { values, lost } of freed) {
      if (rows.length >= KEY_ROWS) break;
      if (lost.length === 0) rows.push(values);
    }
    return new SampledTable(schema, rows, rows.length < KEY_ROWS);
  });
  const names = new Set(fuller.map(({ name }) => name));
  return [...samples.filter(({ name }) => !names.has(name)), ...fuller];
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
