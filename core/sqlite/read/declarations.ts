import type { TextEncoding } from '../../host';
import { cellsOf } from '../format/btree';
import { readPageHeader, TABLE_LEAF } from '../format/page';
import type { PageSet } from '../format/pages';
import { decodeRecord } from '../format/record';
import { schemaRow, tableSchema, type TableSchema } from '../format/schema';

/**
 * Tables that are declared on other pages than the first, where that is lost:
 * a large schema goes on there, and reads like any other table.
 */
export function declaredTables(pages: PageSet, encoding: TextEncoding): TableSchema[] {
  const found = new Map<string, TableSchema>();
  for (let number = 2; number <= pages.pageCount; number++)
    for (const table of declaredOn(pages, number, encoding))
      if (!found.has(table.name)) found.set(table.name, table);
  return [...found.values()];
}

function declaredOn(pages: PageSet, number: number, encoding: TextEncoding): TableSchema[] {
  const bytes = pages.page(number);
  const header = bytes && readPageHeader(bytes, number);
  if (!bytes || header?.kind !== TABLE_LEAF) return [];
  const tables: TableSchema[] = [];
  for (const cell of cellsOf({ number, bytes, header }, pages, () => undefined)) {
    const local = bytes.subarray(cell.payloadStart, cell.payloadStart + cell.local);
    const row = schemaRow(decodeRecord(local, encoding));
    // A page of declarations holds nothing else.
    if (!row) return [];
    const table = tableSchema({ ...row, root: 0 });
    if (table) tables.push(table);
  }
  return tables;
}
