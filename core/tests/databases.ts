import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, existsSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import initSqlJs, { type Database as SqlJs } from 'sql.js';
import { MemorySource } from '../host';
import type { DatabaseFiles } from '../sqlite';

const SQL = await initSqlJs();

/** A database in memory, made by SQLite itself. Secure delete is off, so that freed bytes stay. */
export function makeDatabase(fill: (db: SqlJs) => void, pragmas = ''): Uint8Array {
  const db = new SQL.Database();
  db.run(`PRAGMA secure_delete=OFF; ${pragmas}`);
  fill(db);
  const bytes = db.export();
  db.close();
  return bytes;
}

/** Opens bytes with SQLite itself, to ask what it returns. */
export function askSqlite(bytes: Uint8Array, sql: string): unknown[][] {
  const db = new SQL.Database(bytes);
  try {
    return (db.exec(sql)[0]?.values ?? []) as unknown[][];
  } finally {
    db.close();
  }
}

/** A database after one more statement. */
export function askAfter(bytes: Uint8Array, sql: string): Uint8Array {
  const db = new SQL.Database(bytes);
  db.run(`PRAGMA secure_delete=OFF; ${sql}`);
  const out = db.export();
  db.close();
  return out;
}

export function filesOf(bytes: Uint8Array, wal?: Uint8Array, journal?: Uint8Array): DatabaseFiles {
  return {
    main: new MemorySource('test.db', bytes),
    wal: wal && new MemorySource('test.db-wal', wal),
    journal: journal && new MemorySource('test.db-journal', journal)
  };
}

export interface Snapshot {
  main: Uint8Array;
  wal: Uint8Array | undefined;
  journal: Uint8Array | undefined;
  /** Answers of the command-line SQLite to the query, one JSON object a row. */
  rows: Record<string, unknown>[];
}

/**
 * Runs a script in the command-line SQLite, copies the database with its log
 * and journal while it is still open (the script's `.shell` line calls the
 * placeholder SNAPSHOT), and asks the copy for `query`.
 */
export function snapshot(script: string, query: string): Snapshot {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
  try {
    const db = join(folder, 'a.db');
    const copy = join(folder, 'b.db');
    const take = ['', '-wal', '-journal']
      .map((end) => `if [ -e ${db}${end} ]; then cp ${db}${end} ${copy}${end}; fi`)
      .join('; ');
    const input = `PRAGMA secure_delete=OFF;\n${script.replaceAll('SNAPSHOT', `.shell ${take}`)}\n`;
    execFileSync('sqlite3', ['-batch', db], { input, stdio: ['pipe', 'ignore', 'inherit'] });
    const read = (end: string): Uint8Array | undefined =>
      existsSync(copy + end) ? readFileSync(copy + end) : undefined;
    const files = { main: read('')!, wal: read('-wal'), journal: read('-journal') };
    const answer = execFileSync('sqlite3', ['-json', copy, query], { encoding: 'utf8' });
    return { ...files, rows: answer.trim() === '' ? [] : JSON.parse(answer) };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Writes bytes to a temporary file and gives its path. */
export function temporaryFile(name: string, bytes: Uint8Array | string): string {
  const path = join(mkdtempSync(join(tmpdir(), 'ombudsman-')), name);
  writeFileSync(path, bytes);
  return path;
}

/** Runs a generator to its end and gives what it returns. */
export function finish<T>(work: Generator<unknown, T>): T {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}
