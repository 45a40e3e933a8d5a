import type { SqlValue } from '../sqlite';
import type { Expression, Lookup } from './profile';
import type { StoreRow, TableSet } from './tables';
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
  if ('words' in expression) return evaluate(expression.words, row, scope).flatMap(splitWords);
  if ('joined' in expression) {
    const parts = evaluate(expression.joined, row, scope);
    return parts.length === 0 ? [] : [parts.map(String).join(expression.by)];
  }
  return evaluate(expression.typedStream, row, scope).flatMap((value) =>
    value instanceof Uint8Array ? present(textOfTypedStream(value)) : []
  );
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

function splitWords(value: SqlValue): SqlValue[] {
  return String(value)
    .split(/\s+/)
    .filter((word) => word !== '');
}

/** Rows that a lookup finds, in the order that suits the asking row. */
export function lookUpRows(lookup: Lookup, row: StoreRow, scope: Scope): StoreRow[] {
  const table = scope.tables.get(lookup.table);
  if (!table) return [];
  const out: StoreRow[] = [];
  for (const value of evaluate(lookup.from, row, scope)) {
    const found = table.find(lookup.match, value).filter((r) => passes(lookup, r));
    out.push(...suitable(found, row, isLink(lookup, scope)));
  }
  return out;
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
function suitable(found: StoreRow[], asking: StoreRow, link: boolean): StoreRow[] {
  const live = found.filter((row) => row.live);
  const freed = found.filter((row) => !row.live);
  if (link && asking.live) return live;
  if (link && freed.length > 0) return freed;
  return live.length > 0 ? live : freed;
}
