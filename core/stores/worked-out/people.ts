import { lookUp, type Expression } from '../profile';
import type { ColumnFacts } from './column';
import { CONVERSATIONS, PEOPLE, type Link } from './links';
import type { SampledTable } from './sample';
import { isPeople } from './shape';

const ADDRESS =
  /(jid|phone|number|e164|e?mail|addr|handle|user_?name|nick|identity|uri|sip|identifier|login|mri|raw_string|account|uin|handle)/i;
const NAME = /(display_?name|full_?name|name|title|subject|alias|label|topic)/i;
const NO_NAME =
  /(file|path|mime|color|avatar|photo|image|url|type|service|protocol|device|resource|package|hash|token|key$)/i;

/** What a row of a table is called: an address, a name, or both. */
export interface Label {
  address: Expression | null;
  name: Expression | null;
}

/** The columns of a table that say who or what a row is; through another table where it has none of its own. */
export function labelOf(
  table: SampledTable,
  tables: ReadonlyMap<string, SampledTable>,
  links: readonly Link[],
  depth = 0
): Label {
  const address = best(table.columns, ADDRESS) ?? addressed(table.columns);
  const name = best(table.columns, NAME) ?? called(table.columns, address);
  if (address || name) {
    return {
      address: address && { column: address.name },
      name: name && { column: name.name }
    };
  }
  if (depth >= 1) return { address: null, name: null };
  for (const link of links) {
    if (link.from !== table.name || !(PEOPLE.test(link.column) || PEOPLE.test(link.to))) continue;
    const inner = labelOf(tables.get(link.to)!, tables, links, depth + 1);
    if (!inner.address && !inner.name) continue;
    const through = (expression: Expression | null): Expression | null =>
      expression && lookUp(link.to, link.key, { column: link.column }, expression);
    return { address: through(inner.address), name: through(inner.name) };
  }
  return { address: null, name: null };
}

/** A column of numbers or addresses, whatever its name. */
function addressed(columns: ColumnFacts[]): ColumnFacts | null {
  const isAddress = (text: string): boolean =>
    /^\+?\d[\d\s().-]{6,16}$|^[^\s@]+@[^\s@]+$/.test(text);
  return (
    columns.find(({ texts, frequent }) => texts > 0 && [...frequent.keys()].every(isAddress)) ??
    null
  );
}

/** A column of short words, each nearly once, beside an address. */
function called(columns: ColumnFacts[], address: ColumnFacts | null): ColumnFacts | null {
  if (!address) return null;
  const isName = (text: string): boolean => /^\p{L}[\p{L}\p{M} .'’()-]{1,60}$/u.test(text);
  return (
    columns.find(
      ({ texts, filled, frequent, name }) =>
        name !== address.name && texts > 0 && texts === filled && [...frequent.keys()].every(isName)
    ) ?? null
  );
}

function best(columns: ColumnFacts[], pattern: RegExp): ColumnFacts | null {
  const fitting = columns.filter(
    (column) =>
      pattern.test(column.name) &&
      !NO_NAME.test(column.name) &&
      column.texts > 0 &&
      column.texts >= column.filled * 0.8
  );
  fitting.sort((a, b) => b.filled - a.filled || a.name.length - b.name.length);
  return fitting[0] ?? null;
}

/** A link through which a table's rows name a person or a conversation. */
export function linkTo(
  links: readonly Link[],
  table: string,
  column: string,
  sense: RegExp
): Link | null {
  const own = links.filter((link) => link.from === table && link.column === column);
  return own.find((link) => sense.test(link.to)) ?? own[0] ?? null;
}

/** A table that joins conversations with people: the members of each. */
export function membersThrough(
  conversations: string,
  tables: ReadonlyMap<string, SampledTable>,
  links: readonly Link[]
): { table: string; conversation: string; person: Link } | null {
  for (const [name, table] of tables) {
    if (name === conversations || table.columns.some(({ wording }) => (wording?.score ?? 0) > 0.6))
      continue;
    const to = links.find((link) => link.from === name && link.to === conversations);
    const person = links.find(
      (link) =>
        link.from === name &&
        link.to !== conversations &&
        isPeople(tables.get(link.to)!) &&
        link.column !== to?.column
    );
    if (to && person && table.columns.length <= 12)
      return { table: name, conversation: to.column, person };
  }
  return null;
}

export { CONVERSATIONS, PEOPLE };
