import type { Database, SqlValue, Statement } from 'sql.js';

/** A value; whole numbers beyond 2^53 stay what they are. */
type Value = SqlValue | bigint;
export type Row = Record<string, Value>;

/** Rows of a query as objects. */
export function rowsOf(db: Database, sql: string, values: Value[] = []): Row[] {
  const statement = db.prepare(sql);
  try {
    statement.bind(values as SqlValue[]);
    const rows: Row[] = [];
    const { step, asObject } = reading(statement);
    while (step()) rows.push(safeRow(asObject()));
    return rows;
  } finally {
    statement.free();
  }
}

/** The package's types do not know that it gives whole numbers as they are when asked. */
function reading(statement: Statement): { step: () => boolean; asObject: () => Row } {
  const typed = statement as unknown as {
    getAsObject(params: null, config: { useBigInt: boolean }): Row;
  };
  return {
    step: () => statement.step(),
    asObject: () => typed.getAsObject(null, { useBigInt: true })
  };
}

function safeRow(row: Record<string, Value>): Row {
  return Object.fromEntries(
    Object.entries(row).map(([name, value]) => {
      const isSafe = typeof value === 'bigint' && Number.isSafeInteger(Number(value));
      return [name, isSafe ? Number(value) : value];
    })
  );
}

/** Values as one text by which rows can be compared. */
export function keyOf(values: readonly unknown[]): string {
  return JSON.stringify(values, (_, value: unknown) =>
    typeof value === 'bigint' ? `${value}n` : value
  );
}

/** The first row; null where there is none. */
export function rowOf(db: Database, sql: string, values: Value[] = []): Row | null {
  return rowsOf(db, sql, values)[0] ?? null;
}

/** Inserts what a table has columns for; returns the number of the row. */
export function insertRow(db: Database, table: string, row: Row): number {
  const known = rowsOf(db, `PRAGMA table_info(${table})`).map(({ name }) => String(name));
  const names = Object.keys(row).filter((name) => known.includes(name));
  // Numbers that no double holds stand in the statement itself.
  const places = names.map((name) => (typeof row[name] === 'bigint' ? `${row[name]}` : '?'));
  db.run(
    `INSERT INTO ${table} (${names.map((name) => `"${name}"`).join(', ')}) VALUES (${places.join(', ')})`,
    names.map((name) => row[name] ?? null).filter((value) => typeof value !== 'bigint')
  );
  return Number(rowOf(db, 'SELECT last_insert_rowid() AS id')!.id);
}

/** The row's own number where it is free, else none, so that the next one is taken. */
export function withFreeNumber(db: Database, table: string, column: string, row: Row): Row {
  const taken = rowOf(db, `SELECT 1 FROM ${table} WHERE ${column} = ?`, [row[column]!]) !== null;
  if (!taken) return row;
  const { [column]: _, ...rest } = row;
  return rest;
}
