import initSqlJs, { type Database } from 'sql.js';

const SQL = await initSqlJs();

/** Makes a database that keeps what is deleted in its freed space, as most phones do. */
export function madeStore(fill: (db: Database) => void): Uint8Array {
  return withStore(null, (db) => {
    db.run('PRAGMA secure_delete=OFF');
    fill(db);
  });
}

/** A database after some statements; the bytes given stay as they are. */
export function withStore(bytes: Uint8Array | null, change: (db: Database) => void): Uint8Array {
  const db = bytes === null ? new SQL.Database() : new SQL.Database(bytes);
  try {
    change(db);
    return db.export();
  } finally {
    db.close();
  }
}

/** What is asked of a database, without changing it. */
export function askStore<T>(bytes: Uint8Array, ask: (db: Database) => T): T {
  const db = new SQL.Database(bytes);
  try {
    return ask(db);
  } finally {
    db.close();
  }
}

/** Whether a database has a table. */
export function hasTable(db: Database, name: string): boolean {
  return (
    db.exec('SELECT 1 FROM sqlite_schema WHERE type = ? AND name = ?', ['table', name]).length > 0
  );
}
