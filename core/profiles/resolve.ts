import type { TableSchema } from '../sqlite';
import type { MessageMapping, ReadingProfile } from './profile';

/**
 * Puts the names of a store's own tables in place of those with a `*`, and
 * makes one mapping of each table where every table is a conversation.
 */
export function resolveProfile(profile: ReadingProfile, tables: TableSchema[]): ReadingProfile {
  const names = tables.map((table) => table.name);
  const many = profile.messages.filter((mapping) => mapping.many);
  const manyNames = new Set(many.map((mapping) => mapping.table));
  let text = JSON.stringify(profile);
  for (const pattern of new Set(text.match(/"[^"*\s]*\*[^"*\s]*"/g) ?? [])) {
    const wanted = pattern.slice(1, -1);
    const found = names.filter((name) => matches(wanted, name));
    // The shortest name is the table itself; longer ones are its side tables.
    const best = found.sort((a, b) => a.length - b.length)[0];
    if (best !== undefined && !manyNames.has(wanted)) {
      text = text.replaceAll(pattern, JSON.stringify(best));
    }
  }
  const resolved = JSON.parse(text) as ReadingProfile;
  return { ...resolved, messages: resolved.messages.flatMap((m) => expand(m, names)) };
}

function expand(mapping: MessageMapping, names: string[]): MessageMapping[] {
  if (!mapping.many) return [mapping];
  return names
    .filter((name) => matches(mapping.table, name))
    .map((table) => ({ ...mapping, table, many: false }));
}

/** Whether a table's name fits a pattern of a profile. */
export function matches(pattern: string, name: string): boolean {
  const [before, after] = pattern.split('*');
  if (after === undefined) return pattern.toLowerCase() === name.toLowerCase();
  const regex = new RegExp(`^${escaped(before!)}[a-z0-9]*${escaped(after)}$`, 'i');
  return regex.test(name);
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
