import type { TableView } from './tables';
import type { NumberedTable } from './types';

/** Rows between two rests. */
export const STEP = 2000;

/** Row numbers of a table, where it has its own. */
export function numbersOf(table: TableView): NumberedTable[] {
  const { schema, lastNumber, method } = table;
  if (method !== null || schema.declaration.withoutRowid) return [];
  return [{ name: schema.name, numbers: table.numbers(), last: lastNumber }];
}
