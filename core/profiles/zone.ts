import { evaluate } from './expression';
import type { ReadingProfile, TimeField } from './profile';
import type { TableSet } from './tables';
import { isZoneless } from './written-time';

/** The profile with a zone for times that are kept as texts and may be written without one. */
export function inZone(profile: ReadingProfile, zone: string): ReadingProfile {
  return zoned(profile, zone) as ReadingProfile;
}

function zoned(part: unknown, zone: string): unknown {
  if (Array.isArray(part)) return part.map((inner) => zoned(inner, zone));
  if (typeof part !== 'object' || part === null) return part;
  const copy = Object.fromEntries(
    Object.entries(part).map(([key, inner]) => [key, zoned(inner, zone)])
  );
  return 'clock' in part && part.clock === 'iso' ? { ...copy, zone } : copy;
}

/** Rows that show how a column's times are written. */
const SHOWN = 50;

/** Whether times that the profile reads are written without a zone. */
export function readsZoneless(profile: ReadingProfile, tables: TableSet): boolean {
  return [...profile.messages, ...(profile.calls ?? [])].some((mapping) => {
    const time = 'sentAt' in mapping ? mapping.sentAt : mapping.at;
    return time.clock === 'iso' && isWrittenWithout(time, mapping.table, mapping.key, tables);
  });
}

function isWrittenWithout(
  { value }: TimeField,
  name: string,
  key: string,
  tables: TableSet
): boolean {
  let shown = 0;
  for (const row of tables.get(name)?.sample() ?? []) {
    const [written] = evaluate(value, row, { tables, key });
    if (typeof written === 'string' && isZoneless(written)) return true;
    if (++shown >= SHOWN) break;
  }
  return false;
}
