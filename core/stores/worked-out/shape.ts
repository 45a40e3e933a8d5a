import { CONVERSATIONS, PEOPLE, type Link } from './links';
import type { SampledTable } from './sample';

/** Columns of a table of messages that by their tables alone name a person or a conversation. */
export interface ByShape {
  person: string | null;
  conversation: string | null;
}

/**
 * Tells people from conversations where no name says so: a table of people
 * has numbers, addresses or a mark for the owner; a conversation has members.
 */
export function byShape(
  root: SampledTable,
  tables: ReadonlyMap<string, SampledTable>,
  links: readonly Link[]
): ByShape {
  const found: ByShape = { person: null, conversation: null };
  for (const link of links) {
    if (link.from !== root.name || link.to === root.name) continue;
    const to = tables.get(link.to)!;
    if (to.rows.length >= root.rows.length || to.rows.length < 1) continue;
    // The same in every row names nobody: it is the account that the file belongs to.
    const varies = (root.column(link.column)?.distinct ?? 0) > 1;
    if (!varies) continue;
    if (isPeople(to)) found.person ??= link.column;
    else if (hasMembers(link.to, tables, links)) found.conversation ??= link.column;
  }
  return found;
}

const SELF = /(is_?self|is_?me|^self$|^me$|is_?owner|is_?own)/i;
const ADDRESS = /^\+?\d[\d\s().-]{6,16}$|^[^\s@]+@[^\s@]+$/;

/** Whether rows of a table are people: their values, or its name. */
export function isPeople(table: SampledTable): boolean {
  if (CONVERSATIONS.test(table.name)) return false;
  if (PEOPLE.test(table.name)) return true;
  return table.columns.some((column) => {
    if (SELF.test(column.name)) return true;
    const texts = [...column.frequent.keys()];
    return (
      column.texts > 0 && texts.filter((text) => ADDRESS.test(text)).length >= texts.length * 0.7
    );
  });
}

function hasMembers(
  name: string,
  tables: ReadonlyMap<string, SampledTable>,
  links: readonly Link[]
): boolean {
  return links.some(
    (to) =>
      to.to === name &&
      links.some(
        (person) =>
          person.from === to.from && person.to !== name && isPeople(tables.get(person.to)!)
      )
  );
}
