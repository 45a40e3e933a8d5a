import type { SqlValue } from './record';
import { isMark, isName, isWord, tokenize, type Token } from './tokens';

/** Column affinity (SQLite data types, section 3.1). */
export type Affinity = 'text' | 'numeric' | 'integer' | 'real' | 'blob';

export interface ColumnDeclaration {
  name: string;
  /** Declared type as written, upper case, without its size in brackets. */
  type: string;
  affinity: Affinity;
  notNull: boolean;
  /** Stands for the row number, so that records hold NULL in its place. */
  isRowid: boolean;
  /** Value of rows written before the column was added. */
  fallback: SqlValue;
  /** Computed on reading and not stored. */
  virtual: boolean;
}

export interface TableDeclaration {
  name: string;
  columns: ColumnDeclaration[];
  /** Names of the primary key's columns, in key order. */
  primaryKey: string[];
  withoutRowid: boolean;
  autoIncrement: boolean;
  /** The key was declared `INTEGER PRIMARY KEY DESC` at its column. */
  inlineDesc: boolean;
}

/** Affinity of a declared type: the five rules of section 3.1, in order. */
export function affinityOf(type: string): Affinity {
  if (type.includes('INT')) return 'integer';
  if (/CHAR|CLOB|TEXT/.test(type)) return 'text';
  if (type === '' || type.includes('BLOB')) return 'blob';
  if (/REAL|FLOA|DOUB/.test(type)) return 'real';
  return 'numeric';
}

/** Parses the text of a CREATE TABLE statement; null when it is not one. */
export function parseCreateTable(sql: string): TableDeclaration | null {
  const tokens = tokenize(sql);
  let at = 0;
  if (!isWord(tokens[at++], 'CREATE')) return null;
  if (isWord(tokens[at], 'TEMP', 'TEMPORARY')) at++;
  if (!isWord(tokens[at++], 'TABLE')) return null;
  if (isWord(tokens[at], 'IF')) at += 3;
  if (isMark(tokens[at + 1], '.')) at += 2;
  const name = tokens[at++];
  if (!isName(name) || !isMark(tokens[at], '(')) return null;
  const close = closing(tokens, at);
  const table: TableDeclaration = {
    name: name.text,
    columns: [],
    primaryKey: [],
    withoutRowid: hasOption(tokens.slice(close + 1), 'WITHOUT'),
    autoIncrement: tokens.some((token) => isWord(token, 'AUTOINCREMENT')),
    inlineDesc: false
  };
  for (const part of splitAtCommas(tokens.slice(at + 1, close))) readPart(table, part);
  settleKey(table);
  return table;
}

function hasOption(tokens: Token[], word: string): boolean {
  return tokens.some((token) => isWord(token, word));
}

/** Index of the bracket that closes the one at `open`, or the end. */
function closing(tokens: Token[], open: number): number {
  let depth = 0;
  for (let i = open; i < tokens.length; i++) {
    if (isMark(tokens[i], '(')) depth++;
    if (isMark(tokens[i], ')') && --depth === 0) return i;
  }
  return tokens.length;
}

export function splitAtCommas(tokens: Token[]): Token[][] {
  const parts: Token[][] = [[]];
  let depth = 0;
  for (const token of tokens) {
    if (isMark(token, '(')) depth++;
    if (isMark(token, ')')) depth--;
    if (depth === 0 && isMark(token, ',')) parts.push([]);
    else parts[parts.length - 1]!.push(token);
  }
  return parts.filter((part) => part.length > 0);
}

const CONSTRAINTS = ['CONSTRAINT', 'PRIMARY', 'UNIQUE', 'CHECK', 'FOREIGN'];

function readPart(table: TableDeclaration, part: Token[]): void {
  if (part[0]!.kind === 'word' && isWord(part[0], ...CONSTRAINTS)) {
    readTableConstraint(table, part);
  } else if (isName(part[0])) {
    table.columns.push(readColumn(table, part));
  }
}

function readTableConstraint(table: TableDeclaration, part: Token[]): void {
  const at = part.findIndex((token) => isWord(token, 'PRIMARY'));
  if (at < 0) return;
  const open = part.findIndex((token, i) => i > at && isMark(token, '('));
  if (open < 0) return;
  const names = splitAtCommas(part.slice(open + 1, closing(part, open)));
  table.primaryKey = names.map((tokens) => tokens[0]!.text);
}

const AFTER_TYPE = [
  'CONSTRAINT',
  'PRIMARY',
  'NOT',
  'NULL',
  'UNIQUE',
  'CHECK',
  'DEFAULT',
  'COLLATE',
  'REFERENCES',
  'GENERATED',
  'AS'
];

function readColumn(table: TableDeclaration, part: Token[]): ColumnDeclaration {
  const typeEnd = part.findIndex((token, i) => i > 0 && isWord(token, ...AFTER_TYPE));
  const typeTokens = part.slice(1, typeEnd < 0 ? part.length : typeEnd);
  const bracket = typeTokens.findIndex((token) => isMark(token, '('));
  const words = bracket < 0 ? typeTokens : typeTokens.slice(0, bracket);
  const type = words
    .map((token) => token.text)
    .join(' ')
    .toUpperCase();
  const column: ColumnDeclaration = {
    name: part[0]!.text,
    type,
    affinity: affinityOf(type),
    notNull: false,
    isRowid: false,
    fallback: null,
    virtual: false
  };
  if (typeEnd >= 0) readColumnConstraints(table, column, part.slice(typeEnd));
  return column;
}

function readColumnConstraints(
  table: TableDeclaration,
  column: ColumnDeclaration,
  tokens: Token[]
): void {
  let generated = false;
  let stored = false;
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i];
    if (isMark(token, '(')) i = closing(tokens, i);
    else if (isWord(token, 'PRIMARY')) readKeyConstraint(table, column.name, tokens.slice(i));
    else if (isWord(token, 'NOT') && isWord(tokens[i + 1], 'NULL')) column.notNull = true;
    else if (isWord(token, 'DEFAULT')) column.fallback = literal(tokens.slice(i + 1));
    else if (isWord(token, 'AS')) generated = true;
    else if (isWord(token, 'STORED')) stored = true;
  }
  column.virtual = generated && !stored;
}

function readKeyConstraint(table: TableDeclaration, column: string, rest: Token[]): void {
  table.primaryKey = [column];
  // A quirk kept for old files: an inline INTEGER PRIMARY KEY DESC is no alias of the row number.
  table.inlineDesc = isWord(rest[2], 'DESC');
}

function literal(tokens: Token[]): SqlValue {
  const inner = isMark(tokens[0], '(') ? tokens.slice(1) : tokens;
  const negative = isMark(inner[0], '-');
  const token = negative || isMark(inner[0], '+') ? inner[1] : inner[0];
  if (!token) return null;
  if (token.kind === 'number') return numberOf(token.text, negative);
  if (token.kind === 'blob') return hexBytes(token.text);
  if (token.kind === 'text' || token.kind === 'name') return token.text;
  if (isWord(token, 'TRUE')) return 1;
  if (isWord(token, 'FALSE')) return 0;
  return null;
}

function numberOf(text: string, negative: boolean): SqlValue {
  const value = Number(text);
  if (/^\d+$/.test(text) && !Number.isSafeInteger(value)) {
    return BigInt(text) * (negative ? -1n : 1n);
  }
  return negative ? -value : value;
}

function hexBytes(text: string): Uint8Array {
  return Uint8Array.from(text.match(/../g) ?? [], (pair) => parseInt(pair, 16));
}

/** A table-level PRIMARY KEY on one INTEGER column is the row number too; in WITHOUT ROWID tables none is. */
function settleKey(table: TableDeclaration): void {
  const key = new Set(table.primaryKey.map((name) => name.toLowerCase()));
  for (const column of table.columns) {
    const inKey = key.has(column.name.toLowerCase());
    if (table.withoutRowid) {
      column.isRowid = false;
      column.notNull ||= inKey;
    } else if (inKey && key.size === 1 && column.type === 'INTEGER') {
      column.isRowid = !table.inlineDesc;
    }
  }
  applyFallbackAffinity(table);
}

function applyFallbackAffinity(table: TableDeclaration): void {
  for (const column of table.columns) {
    const value = column.fallback;
    if (column.affinity === 'text' && (typeof value === 'number' || typeof value === 'bigint')) {
      column.fallback = String(value);
    } else if (typeof value === 'string' && isNumeric(column.affinity) && value.trim() !== '') {
      const number = Number(value);
      if (!Number.isNaN(number)) column.fallback = number;
    }
  }
}

function isNumeric(affinity: Affinity): boolean {
  return affinity === 'integer' || affinity === 'numeric' || affinity === 'real';
}
