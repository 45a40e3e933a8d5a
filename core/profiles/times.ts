import type { CallMapping, ContactMapping, MessageMapping } from './profile';
import { Clocks } from './row';
import type { TableSet } from './tables';

/** The known moments of a table's rows, in milliseconds since 1970, as a mapping tells them. */
export function* timesOf(
  mapping: MessageMapping | CallMapping | ContactMapping,
  tables: TableSet
): Generator<number> {
  const table = tables.get(mapping.table);
  const time = 'sentAt' in mapping ? mapping.sentAt : 'at' in mapping ? mapping.at : null;
  if (!table || !time) return;
  const clocks = new Clocks(table, { tables, key: mapping.key });
  for (const row of table.rows) {
    const at = clocks.time(time, row);
    if (at !== null) yield at;
  }
}
