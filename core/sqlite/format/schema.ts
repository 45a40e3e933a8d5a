import {
  parseCreateTable,
  splitAtCommas,
  type ColumnDeclaration,
  type TableDeclaration
} from './declaration';
import type { SqlValue } from './record';
import { isMark, isWord, tokenize } from './tokens';

/** One row of `sqlite_schema` (file format, section 2.6). */
export interface SchemaRow {
  type: string;
  name: string;
  table: string;
  root: number;
  sql: string | null;
}

/** A table as it is stored: its columns in record order. */
export interface TableSchema {
  name: string;
  root: number;
  declaration: TableDeclaration;
  /** Columns as declared. */
  columns: ColumnDeclaration[];
  /** For each value of a stored record, the index of its column; WITHOUT ROWID records begin with the key (section 2.4). */
  order: number[];
  sql: string;
}

/** An index's stored columns; the row number, or the key of a WITHOUT ROWID table, follows them. */
export interface IndexSchema {
  name: string;
  table: string;
  root: number;
  /** Column names; an expression stands as null. */
  columns: (string | null)[];
  unique: boolean;
}

export function schemaRow(values: SqlValue[]): SchemaRow | null {
  const [type, name, table, root, sql] = values;
  if (typeof type !== 'string' || typeof name !== 'string' || typeof table !== 'string')
    return null;
  return {
    type,
    name,
    table,
    root: typeof root === 'number' ? root : 0,
    sql: typeof sql === 'string' ? sql : null
  };
}

/** The table that a schema row declares; null for virtual tables and for statements that cannot be read. */
export function tableSchema(row: SchemaRow): TableSchema | null {
  if (row.type !== 'table' || row.sql === null) return null;
  const declaration = parseCreateTable(row.sql);
  if (!declaration || declaration.columns.length === 0) return null;
  return {
    name: row.name,
    root: row.root,
    declaration,
    columns: declaration.columns,
    order: storedOrder(declaration),
    sql: row.sql
  };
}

function storedOrder(declaration: TableDeclaration): number[] {
  const stored = declaration.columns.flatMap((column, i) => (column.virtual ? [] : [i]));
  if (!declaration.withoutRowid) return stored;
  const key: number[] = [];
  for (const name of declaration.primaryKey) {
    const i = declaration.columns.findIndex((c) => c.name.toLowerCase() === name.toLowerCase());
    if (i >= 0 && !key.includes(i)) key.push(i);
  }
  return [...key, ...stored.filter((i) => !key.includes(i))];
}

/** The index that a schema row declares. Automatic indexes have no statement: their columns come from the table's constraints. */
export function indexSchema(row: SchemaRow, tables: TableSchema[]): IndexSchema | null {
  if (row.type !== 'index' || row.root === 0) return null;
  const base = { name: row.name, table: row.table, root: row.root };
  if (row.sql !== null) return { ...base, ...declaredIndex(row.sql) };
  const table = tables.find((t) => t.name === row.table);
  const number = Number(/_(\d+)$/.exec(row.name)?.[1] ?? 0);
  const columns = table ? automaticIndexes(table)[number - 1] : undefined;
  return columns ? { ...base, columns, unique: true } : null;
}

function declaredIndex(sql: string): { columns: (string | null)[]; unique: boolean } {
  const tokens = tokenize(sql);
  const on = tokens.findIndex((token) => isWord(token, 'ON'));
  const open = tokens.findIndex((token, i) => i > on && isMark(token, '('));
  let depth = 0;
  let close = tokens.length;
  for (let i = open; i < tokens.length; i++) {
    if (isMark(tokens[i], '(')) depth++;
    if (isMark(tokens[i], ')') && --depth === 0) {
      close = i;
      break;
    }
  }
  const parts = splitAtCommas(tokens.slice(open + 1, close));
  const columns = parts.map((part) =>
    part.some((t) => isMark(t, '(') || t.kind === 'number') ? null : part[0]!.text
  );
  return { columns, unique: isWord(tokens[1], 'UNIQUE') };
}

/** Column lists of a table's UNIQUE and PRIMARY KEY constraints in the order of their declaration. */
function automaticIndexes(table: TableSchema): string[][] {
  const tokens = tokenize(table.sql);
  const open = tokens.findIndex((token) => isMark(token, '('));
  const found: string[][] = [];
  for (const part of splitAtCommas(tokens.slice(open + 1, -1))) {
    const name = part[0]!.text;
    const own = table.columns.find((column) => column.name === name);
    const tableLevel =
      isWord(part[0], 'CONSTRAINT', 'PRIMARY', 'UNIQUE') && part[0]!.kind === 'word';
    part.forEach((token, i) => {
      if (!isWord(token, 'UNIQUE', 'PRIMARY')) return;
      const bracket = part.findIndex((t, j) => j > i && isMark(t, '('));
      if (tableLevel && bracket > 0) found.push(bracketNames(part, bracket));
      else if (!tableLevel && own && i > 0) found.push([name]);
    });
  }
  const rowid = table.columns.find((column) => column.isRowid)?.name;
  return found.filter((names) => !(names.length === 1 && names[0] === rowid));
}

function bracketNames(part: ReturnType<typeof tokenize>, open: number): string[] {
  const close = part.findIndex((token, i) => i > open && isMark(token, ')'));
  return splitAtCommas(part.slice(open + 1, close)).map((tokens) => tokens[0]!.text);
}

/** The schema table itself, which no row declares. */
export const SCHEMA_TABLE: TableSchema = tableSchema({
  type: 'table',
  name: 'sqlite_schema',
  table: 'sqlite_schema',
  root: 1,
  sql: 'CREATE TABLE sqlite_schema(type text, name text, tbl_name text, rootpage integer, sql text)'
})!;
