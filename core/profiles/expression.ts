import type { SqlValue } from '../sqlite';
import { textOfMarkup } from './markup';
import type { Expression, Lookup, RowTest } from './profile';
import type { StoreRow, TableSet, TableView } from './tables';
import { fieldOf } from './json-field';
import { textOfBytes } from './packed-text';
import { taggedField } from './tagged-fields';
import { textOfTypedStream } from './typed-stream';

/** What an expression is evaluated in. */
export interface Scope {
  tables: TableSet;
  /** Column that other tables refer to the message by; links to it follow the message's own state. */
  key: string;
}

/** All values that an expression gives for a row. */
export function evaluate(expression: Expression, row: StoreRow, scope: Scope): SqlValue[] {
  if ('column' in expression) return present(row.table.value(row, expression.column));
  if ('constant' in expression) return [expression.constant];
  if ('lookup' in expression) {
    return lookUpRows(expression.lookup, row, scope).flatMap((found) =>
      evaluate(expression.take, found, scope)
    );
  }
  if ('first' in expression) return firstGiving(expression.first, row, scope);
  if ('each' in expression) return expression.each.flatMap((part) => evaluate(part, row, scope));
  if ('joined' in expression) {
    const parts = evaluate(expression.joined, row, scope);
    return parts.length === 0 ? [] : [parts.map(String).join(expression.by)];
  }
  if ('sorted' in expression) {
    const parts = new Set(evaluate(expression.sorted, row, scope).map(String));
    return parts.size === 0 ? [] : [[...parts].sort().join(',')];
  }
  if ('tableHash' in expression) return [scope.tables.hashedName(row.table.schema.name)];
  if ('when' in expression) {
    return holds(expression.when, row, scope) ? evaluate(expression.then, row, scope) : [];
  }
  return transformed(expression, row, scope);
}

/** Expressions that change each value of another. */
function transformed(
  expression: Exclude<
    Expression,
    | { column: string }
    | { constant: string }
    | { lookup: Lookup; take: Expression }
    | { first: Expression[] }
    | { each: Expression[] }
    | { joined: Expression; by: string }
    | { sorted: Expression }
    | { tableHash: true }
    | { when: RowTest; then: Expression }
  >,
  row: StoreRow,
  scope: Scope
): SqlValue[] {
  if ('words' in expression) return evaluate(expression.words, row, scope).flatMap(splitWords);
  if ('listed' in expression) return evaluate(expression.listed, row, scope).flatMap(listed);
  if ('plainText' in expression) return evaluate(expression.plainText, row, scope).map(shownText);
  if ('textOf' in expression) {
    return evaluate(expression.textOf, row, scope).flatMap((value) =>
      value instanceof Uint8Array ? present(textOfBytes(value, expression.form)) : [value]
    );
  }
  if ('tagged' in expression) {
    return evaluate(expression.tagged, row, scope).flatMap((value) =>
      present(taggedField(value, expression.path))
    );
  }
  if ('json' in expression) {
    return evaluate(expression.json, row, scope).flatMap((value) =>
      present(fieldOf(value, expression.path))
    );
  }
  if ('jid' in expression) return evaluate(expression.jid, row, scope).map(numberOfJid);
  if ('map' in expression) {
    return evaluate(expression.map, row, scope).flatMap((value) =>
      present(expression.values[String(value)] ?? null)
    );
  }
  if ('match' in expression) {
    const pattern = compiled(expression.pattern);
    return evaluate(expression.match, row, scope).flatMap((value) =>
      present(pattern.exec(String(value))?.[1] ?? null)
    );
  }
  if ('without' in expression) {
    const pattern = compiled(expression.pattern);
    return evaluate(expression.without, row, scope).map((value) =>
      String(value).replace(pattern, '')
    );
  }
  return evaluate(expression.typedStream, row, scope).flatMap((value) =>
    value instanceof Uint8Array ? present(textOfTypedStream(value)) : []
  );
}

const patterns = new Map<string, RegExp>();

function compiled(pattern: string): RegExp {
  let known = patterns.get(pattern);
  if (!known) patterns.set(pattern, (known = new RegExp(pattern, 's')));
  return known;
}

function shownText(value: SqlValue): SqlValue {
  return typeof value === 'string' ? textOfMarkup(value) : value;
}

/** A user part of 7 to 15 digits is an international number; a device suffix is dropped. */
function numberOfJid(value: SqlValue): SqlValue {
  const found = /^(\d{7,15})(?:[.:]\d+)?@/.exec(String(value));
  const isGroup = /@g\.|@broadcast|@temp/.test(String(value));
  return found && !isGroup ? `+${found[1]}` : value;
}

/** Whether a test holds for a row. */
export function holds(test: RowTest, row: StoreRow, scope: Scope): boolean {
  const values = evaluate(test.value, row, scope);
  if (test.present !== undefined) {
    return test.present === values.some((value) => value !== '' && value !== 0);
  }
  const text = values.length === 0 ? '' : String(values[0]);
  if (test.is) return test.is.includes(text);
  return !(test.not ?? []).includes(text);
}

function present(value: SqlValue): SqlValue[] {
  return value === null ? [] : [value];
}

function firstGiving(options: Expression[], row: StoreRow, scope: Scope): SqlValue[] {
  for (const option of options) {
    const values = evaluate(option, row, scope);
    if (values.length > 0 && values[0] !== '') return values;
  }
  return [];
}

function listed(value: SqlValue): SqlValue[] {
  return String(value)
    .split(/[,;|]/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

function splitWords(value: SqlValue): SqlValue[] {
  return String(value)
    .split(/\s+/)
    .filter((word) => word !== '');
}

/** Rows that a lookup finds, in the order that suits the asking row. */
export function lookUpRows(lookup: Lookup, row: StoreRow, scope: Scope): readonly StoreRow[] {
  const table = scope.tables.get(lookup.table);
  if (!table) return [];
  const values = evaluate(lookup.from, row, scope);
  if (values.length === 1) return found(table, lookup, values[0]!, row, scope);
  return values.flatMap((value) => found(table, lookup, value, row, scope));
}

function found(
  table: TableView,
  lookup: Lookup,
  value: SqlValue,
  row: StoreRow,
  scope: Scope
): readonly StoreRow[] {
  const rows = table.find(lookup.match, value);
  const passing = lookup.where ? rows.filter((r) => passes(lookup, r)) : rows;
  const suited = suitable(passing, row, isLink(lookup, scope));
  return lookup.order === undefined ? suited : ordered(suited, lookup.order);
}

function ordered(rows: readonly StoreRow[], column: string): readonly StoreRow[] {
  if (rows.length < 2) return rows;
  return [...rows].sort(
    (a, b) => Number(a.table.value(a, column)) - Number(b.table.value(b, column))
  );
}

function passes(lookup: Lookup, row: StoreRow): boolean {
  const { where } = lookup;
  if (!where) return true;
  const value = String(row.table.value(row, where.column));
  return where.is ? where.is.includes(value) : !(where.not ?? []).includes(value);
}

/** Whether the lookup goes from the message's own number to rows made for that message. */
function isLink(lookup: Lookup, scope: Scope): boolean {
  return 'column' in lookup.from && lookup.from.column === scope.key;
}

/**
 * A number can be used again after its row was deleted. Rows made for one
 * message therefore share its state: a live message takes live links only, a
 * deleted one those that were deleted with it, where there are any. Rows that
 * many refer to (people, conversations) are taken live where they exist.
 */
function suitable(
  found: readonly StoreRow[],
  asking: StoreRow,
  link: boolean
): readonly StoreRow[] {
  if (found.length === 0) return found;
  // All in one state, as nearly always, are taken or left together.
  if (found.every((row) => row.live)) return found;
  const live = found.filter((row) => row.live);
  const freed = found.filter((row) => !row.live);
  if (link && asking.live) return live;
  if (link && freed.length > 0) return freed;
  return live.length > 0 ? live : freed;
}
