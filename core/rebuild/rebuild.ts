import type { Database as SqlDatabase, SqlJsStatic, SqlValue as Bound } from 'sql.js';
import {
  Database,
  recoverTables,
  type DatabaseFiles,
  type FreedRow,
  type RecoveredTable,
  type SqlValue
} from '../sqlite';

/** What a rebuilt store says of itself. */
export interface RebuildFacts {
  /** ISO 8601, UTC. */
  made: string;
  version: string;
  source: string;
  sha256: string;
}

/** A copy of a store with rows put back. */
export interface Rebuilt {
  bytes: Uint8Array;
  /** Rows that SQLite took. */
  put: number;
  /** Rows that it refused, with its words. */
  refused: { table: string; rowid: string | null; reason: string }[];
}

/** Name of the table by which a rebuilt store is told. */
export const MARK = 'ombudsman_rebuilt';

/**
 * Makes a copy of a database as of its last commit and lets SQLite itself put
 * deleted rows back that were recovered whole. `isWanted` is asked for each
 * row's place: file and offset. Triggers do not fire while rows are put back.
 * @throws SqliteFormatError when the file is no readable database
 * @throws Error when SQLite does not find the copy sound
 */
export function rebuildStore(
  files: DatabaseFiles,
  sql: SqlJsStatic,
  isWanted: (file: string, offset: number) => boolean,
  facts: RebuildFacts
): Rebuilt {
  const source = Database.open(files);
  const rows = recovered(source).flatMap(({ schema, freed }) =>
    [...freed]
      .filter(
        (row) => isWhole(row) && row.proofs.some(({ file, offset }) => isWanted(file, offset))
      )
      .map((row) => ({ columns: schema.columns, row }))
  );
  const copy = new sql.Database(committed(source));
  try {
    const triggers = withoutTriggers(copy);
    const refused: Rebuilt['refused'] = [];
    const kept: FreedRow[] = [];
    copy.run('BEGIN');
    for (const { columns, row } of rows) {
      const reason = putBack(copy, columns, row);
      if (reason === null) kept.push(row);
      else refused.push({ table: row.table, rowid: numberOf(row), reason });
    }
    mark(copy, kept, facts);
    for (const statement of triggers) copy.run(statement);
    copy.run('COMMIT');
    const [result] = copy.exec('PRAGMA integrity_check');
    const told = result?.values[0]?.[0];
    if (told !== 'ok') throw new Error(`The rebuilt store is not sound: ${String(told)}.`);
    return { bytes: copy.export(), put: kept.length, refused };
  } finally {
    copy.close();
  }
}

function recovered(source: Database): RecoveredTable[] {
  const work = recoverTables(source, { wanted: () => true, freed: true });
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value.filter(({ dropped, schema }) => !dropped && schema.root > 0);
}

function isWhole({ lost, cut }: FreedRow): boolean {
  return lost.length === 0 && cut === null;
}

function numberOf({ rowid }: FreedRow): string | null {
  return rowid === null ? null : String(rowid);
}

/** All pages of the last commit as one file that needs no log (file format 1.3, bytes 18 and 19). */
function committed({ pages }: Database): Uint8Array {
  const { pageCount, pageSize } = pages;
  const out = new Uint8Array(pageCount * pageSize);
  for (let number = 1; number <= pageCount; number++) {
    const page = pages.single(number);
    if (page) out.set(page.subarray(0, pageSize), (number - 1) * pageSize);
  }
  out[18] = 1;
  out[19] = 1;
  return out;
}

/** Takes the triggers away and gives the statements that bring them back. */
function withoutTriggers(copy: SqlDatabase): string[] {
  const [found] = copy.exec("SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'");
  const triggers = (found?.values ?? []) as [string, string][];
  for (const [name] of triggers) copy.run(`DROP TRIGGER ${quoted(name)}`);
  return triggers.map(([, statement]) => statement);
}

function quoted(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}

/** Puts one row back; gives SQLite's words where it refuses. */
function putBack(
  copy: SqlDatabase,
  columns: readonly { name: string; isRowid: boolean }[],
  row: FreedRow
): string | null {
  const named = columns.map(({ name }) => quoted(name));
  const values: Bound[] = columns.map(({ isRowid }, i) =>
    bound(isRowid ? row.rowid : (row.values[i] ?? null))
  );
  // A row without a number gets the next one.
  if (row.rowid !== null && !columns.some(({ isRowid }) => isRowid)) {
    named.unshift('rowid');
    values.unshift(bound(row.rowid));
  }
  const places = named.map(() => '?').join(', ');
  copy.run('SAVEPOINT one');
  try {
    copy.run(`INSERT INTO ${quoted(row.table)} (${named.join(', ')}) VALUES (${places})`, values);
    copy.run('RELEASE one');
    return null;
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    copy.run('ROLLBACK TO one');
    copy.run('RELEASE one');
    return error.message;
  }
}

function bound(value: SqlValue): Bound {
  return value as Bound;
}

/** A table that says what this file is, with every row that was put back and where it was found. */
function mark(copy: SqlDatabase, rows: readonly FreedRow[], facts: RebuildFacts): void {
  copy.run(
    `CREATE TABLE ${MARK} (note TEXT, made TEXT, program TEXT, source TEXT, sha256 TEXT, tbl TEXT, row TEXT, file TEXT, offset INTEGER, length INTEGER)`
  );
  const note = 'A copy of the source with deleted rows put back; it is no evidence by itself.';
  const insert = `INSERT INTO ${MARK} VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`;
  const { made, version, source, sha256 } = facts;
  copy.run(insert, [note, made, version, source, sha256, null, null, null, null, null]);
  for (const row of rows) {
    const [proof] = row.proofs;
    copy.run(insert, [
      null,
      null,
      null,
      null,
      null,
      row.table,
      numberOf(row),
      proof?.file ?? null,
      proof?.offset ?? null,
      proof?.length ?? null
    ]);
  }
}
