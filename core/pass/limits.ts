import type { Depth } from '../records';
import type { Database, FreedSpace, RecoveredTable } from '../sqlite';

/** Why not more: what the file itself says about its freed space. */
export function limitsOf(
  database: Database,
  tables: RecoveredTable[],
  space: FreedSpace,
  depth: Depth
): string[] {
  if (depth === 'indexed')
    return ['Only what the store itself lists was read: freed space was not searched.'];
  const limits: string[] = [];
  const freed = tables.reduce((sum, table) => sum + table.freed.length, 0);
  if (space.bytes === 0) {
    limits.push(
      'The file has no freed space: it was compacted, or nothing was deleted since it was made.'
    );
  } else if (space.wiped === space.bytes) {
    limits.push(`All ${space.bytes} bytes of freed space are wiped: the app deletes securely.`);
  } else if (freed === 0) {
    limits.push(`${space.bytes} bytes of freed space were searched; they hold no message.`);
  } else {
    limits.push(
      `All ${space.bytes} bytes of freed space that the file has were searched; ${space.wiped} of them hold zeros only.`
    );
  }
  if (database.header.autoVacuum && space.freePages === 0) {
    limits.push('The file is kept compact (auto-vacuum): freed pages are cut off at once.');
  }
  return limits;
}
