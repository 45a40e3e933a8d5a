import { CONVERSATIONS, isNameless, mostlyAddresses, PEOPLE, type Link } from './links';
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
  const found: ByShape = { person: ownAddress(root), conversation: null };
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

/** Where columns have lost their names, one that holds addresses names people. */
function ownAddress(root: SampledTable): string | null {
  const column = root.columns.find(
    (c) => isNameless(c.name) && c.distinct > 1 && c.clock === null && mostlyAddresses(c)
  );
  return column?.name ?? null;
}

const SELF = /(is_?self|is_?me|^self$|^me$|is_?owner|is_?own)/i;

/** Whether rows of a table are people: their values, or its name. */
export function isPeople(table: SampledTable): boolean {
  if (CONVERSATIONS.test(table.name)) return false;
  if (PEOPLE.test(table.name)) return true;
  return table.columns.some((column) => {
    if (SELF.test(column.name)) return true;
    return mostlyAddresses(column);
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
