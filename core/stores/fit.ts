import type { TableSchema } from '../sqlite';
import { builtInProfiles } from './profiles';
import type { ReadingProfile } from './profile';

/**
 * How well a profile suits a set of tables, 0 to 100: 0 when something it
 * needs is missing, else 60 plus the share of the other columns it knows.
 */
function fitOf(profile: ReadingProfile, tables: TableSchema[]): number {
  const columns = new Map(
    tables.map((t) => [t.name.toLowerCase(), new Set(t.columns.map((c) => c.name.toLowerCase()))])
  );
  const has = (table: string, column: string): boolean => {
    const known = columns.get(table.toLowerCase());
    // The row number can be asked for by name whether or not a column stands for it.
    return known !== undefined && (known.has(column.toLowerCase()) || /^rowid$/i.test(column));
  };
  const needed = pairs(profile.needs);
  if (!needed.every(([table, column]) => has(table, column))) return 0;
  const known = pairs(profile.knows);
  const present = known.filter(([table, column]) => has(table, column)).length;
  return Math.round(60 + (40 * present) / Math.max(known.length, 1));
}

function pairs(columns: Record<string, string[]>): [string, string][] {
  return Object.entries(columns).flatMap(([table, names]) =>
    names.map((name): [string, string] => [table, name])
  );
}

/** The built-in profile that suits best; null when none does. */
export function bestProfile(
  tables: TableSchema[]
): { profile: ReadingProfile; fit: number } | null {
  const ranked = builtInProfiles
    .map((profile) => ({ profile, fit: fitOf(profile, tables) }))
    .filter(({ fit }) => fit > 0)
    .sort((a, b) => b.fit - a.fit);
  return ranked[0] ?? null;
}

/** Names of all tables that a profile reads, in lower case. */
export function tablesOf(profile: ReadingProfile): Set<string> {
  const names = new Set<string>();
  for (const columns of [profile.needs, profile.knows]) {
    for (const table of Object.keys(columns)) names.add(table.toLowerCase());
  }
  for (const mapping of profile.messages) names.add(mapping.table.toLowerCase());
  return names;
}
