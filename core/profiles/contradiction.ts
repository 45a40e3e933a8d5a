import type { Database, TableSchema } from '../sqlite';
import { fittingProfiles, type Choice } from './fit';
import type { MessageMapping, ReadingProfile } from './profile';

/** Rows that are looked at, and how many there must be for a judgement. */
const LOOKED_AT = 400;
const LEAST_ROWS = 20;
/** Share of rows whose direction a profile does not know from which it is another store's. */
const UNKNOWN_SHARE = 0.5;

/** The profiles that suit a database's tables, but for those that its rows speak against; one that was saved is the technician's word. */
export function agreeingProfiles(
  database: Database,
  tables: TableSchema[],
  saved: readonly ReadingProfile[]
): Choice[] {
  return fittingProfiles(tables, saved).filter(
    ({ profile }) => saved.some(({ id }) => id === profile.id) || !isContradicted(database, profile)
  );
}

/**
 * Whether the live rows contradict a built-in profile: tables may be called
 * like those of a known store and keep other values for the direction. Such
 * a table is no known one.
 */
function isContradicted(database: Database, profile: ReadingProfile): boolean {
  return profile.messages.some((mapping) => hasOtherValues(database, mapping));
}

function hasOtherValues(
  database: Database,
  { table: name, direction, many }: MessageMapping
): boolean {
  if (many || !('value' in direction) || !('column' in direction.value)) return false;
  if (direction.otherwise !== 'unknown') return false;
  const { column } = direction.value;
  const table = database.tables.find((t) => t.name.toLowerCase() === name.toLowerCase());
  const at = table?.columns.findIndex((c) => c.name.toLowerCase() === column.toLowerCase()) ?? -1;
  if (!table || at < 0) return false;
  let [rows, unknown] = [0, 0];
  for (const { values } of database.rows(table)) {
    if (rows++ === LOOKED_AT) break;
    if (direction.values[String(values[at] ?? '')] === undefined) unknown++;
  }
  return rows >= LEAST_ROWS && unknown > rows * UNKNOWN_SHARE;
}
