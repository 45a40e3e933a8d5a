import { sizeText } from '../host';
import type { Depth } from '../records';
import type { Database, FreedSpace, RecoveredTable } from '../sqlite';

/** Wiped bytes from which it is taken for the app's way to delete. */
const LEAST_WIPED = 512;

/** Limits of this result: what the file itself says about its freed space. */
export function limitsOf(
  database: Database,
  tables: RecoveredTable[],
  space: FreedSpace,
  depth: Depth
): string[] {
  if (depth === 'indexed')
    return [
      'This examination read only what the store itself lists. It did not search freed space.'
    ];
  const limits: string[] = [];
  const freed = tables.reduce((sum, table) => sum + table.freed.length, 0);
  if (space.bytes === 0) {
    limits.push(
      freed > 0
        ? 'The file itself has no freed space; what was recovered stood in its log or journal.'
        : 'The file has no freed space: it was compacted, or nothing has been deleted since it was made.'
    );
  } else if (space.wiped === space.bytes) {
    // A few zeros are no habit of the app's.
    const why = space.bytes >= LEAST_WIPED ? ': the app deletes securely' : '';
    limits.push(`All freed space (${sizeText(space.bytes)}) was wiped with zeros${why}.`);
  } else if (freed === 0) {
    limits.push(`The freed space (${sizeText(space.bytes)}) was searched and holds no message.`);
  } else {
    limits.push(
      space.wiped === 0
        ? `All freed space (${sizeText(space.bytes)}) was searched. None of it had been wiped.`
        : `All freed space (${sizeText(space.bytes)}) was searched. ${sizeText(space.wiped)} of it had been wiped with zeros.`
    );
  }
  if (database.header.autoVacuum && space.freePages === 0) {
    limits.push(
      'The store releases freed pages at once (auto-vacuum), so little remains to be found.'
    );
  }
  return limits;
}
