import { md5 } from '@noble/hashes/legacy.js';
import { toHex } from '../host';
import type { TableSchema } from '../sqlite';
import type { ReadingProfile } from './profile';
import { builtInProfiles } from './builtin';
import { matches, resolveProfile } from './resolve';

/** A profile with the store's own table names in it, and how well it suits. */
export interface Choice {
  profile: ReadingProfile;
  fit: number;
  reasons: string[];
}

/**
 * How well a profile suits a set of tables, 0 to 100: 0 when something it
 * needs is missing, else 60 plus the share of the other columns it knows.
 */
function fitOf(profile: ReadingProfile, tables: TableSchema[], fingerprint: string): number {
  // What was saved for stores of one shape says nothing of others.
  if (profile.fingerprint !== undefined) return profile.fingerprint === fingerprint ? 100 : 0;
  const has = (table: string, column: string): boolean =>
    tables.some(
      (t) =>
        matches(table, t.name) &&
        (t.columns.some((c) => c.name.toLowerCase() === column.toLowerCase()) ||
          // The row number can be asked for by name whether or not a column stands for it.
          /^rowid$/i.test(column))
    );
  const needed = pairs(profile.needs);
  if (!needed.every(([table, column]) => has(table, column))) return 0;
  const known = pairs(profile.knows);
  const present = known.filter(([table, column]) => has(table, column)).length;
  return Math.round(60 + (40 * present) / Math.max(known.length, 1));
}

/** What databases of the same make share: the names of their tables and columns. */
export function schemaFingerprint(tables: readonly TableSchema[]): string {
  const lines = tables.map(({ name, columns }) =>
    `${name}(${columns.map((column) => column.name).join(',')})`.toLowerCase()
  );
  return toHex(md5(new TextEncoder().encode(lines.sort().join('\n'))));
}

function pairs(columns: Record<string, string[]>): [string, string][] {
  return Object.entries(columns).flatMap(([table, names]) =>
    names.map((name): [string, string] => [table, name])
  );
}

/**
 * The profiles that suit a set of tables, best first. One table is read by
 * one profile only, so a file that keeps messages, calls and contacts gives
 * a profile for each.
 */
export function fittingProfiles(
  tables: TableSchema[],
  more: readonly ReadingProfile[] = []
): Choice[] {
  const fingerprint = schemaFingerprint(tables);
  const ranked = [...more, ...builtInProfiles]
    .map((profile) => ({ profile, fit: fitOf(profile, tables, fingerprint) }))
    .filter(({ fit }) => fit > 0)
    .sort((a, b) => b.fit - a.fit);
  const taken = new Set<string>();
  const chosen: Choice[] = [];
  for (const { profile, fit } of ranked) {
    const resolved = resolveProfile(profile, tables);
    const main = mainTables(resolved);
    if (main.length === 0 || main.some((name) => taken.has(name))) continue;
    for (const name of main) taken.add(name);
    chosen.push({ profile: resolved, fit, reasons: [`its tables are those of ${profile.title}`] });
  }
  return chosen;
}

/** Names of the tables whose rows a profile makes records of, in lower case. */
export function mainTables(profile: ReadingProfile): string[] {
  return [...profile.messages, ...(profile.calls ?? []), ...(profile.contacts ?? [])].map(
    ({ table }) => table.toLowerCase()
  );
}

/** Names of all tables that a profile reads, in lower case. */
export function tablesOf(profile: ReadingProfile): Set<string> {
  const names = new Set<string>();
  collect(profile, names);
  for (const columns of [profile.needs, profile.knows]) {
    for (const table of Object.keys(columns)) names.add(table.toLowerCase());
  }
  return names;
}

/** Every property called `table` or `ownTable`, however deep. */
function collect(part: unknown, names: Set<string>): void {
  if (typeof part !== 'object' || part === null) return;
  for (const [key, value] of Object.entries(part)) {
    if ((key === 'table' || key === 'ownTable') && typeof value === 'string')
      names.add(value.toLowerCase());
    else collect(value, names);
  }
}

/** Whether a profile looks for a name by its hash, so that every small table may hold it. */
export function readsHashedNames(profile: ReadingProfile): boolean {
  return JSON.stringify(profile).includes('"tableHash"');
}
