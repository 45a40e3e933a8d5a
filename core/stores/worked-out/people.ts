import { lookUp, type Expression } from '../profile';
import type { ColumnFacts } from './column';
import { ADDRESSED, CONVERSATIONS, PEOPLE, type Link } from './links';
import type { SampledTable } from './sample';
import { isPeople } from './shape';

const ADDRESS =
  /(jid|phone|number|e164|e?mail|addr|handle|user_?name|nick|identity|uri|sip|identifier|login|mri|raw_string|account|uin|handle)/i;
const NAME = /(display_?name|full_?name|name|title|subject|alias|label|topic)/i;
const NO_NAME =
  /(file|path|mime|color|avatar|photo|image|url|type|service|protocol|device|resource|package|hash|token|key$)/i;
/** What happened last in a conversation, and who made it, is not what it is called. */
const OF_THE_TIME =
  /(last|latest|recent|snippet|preview|draft|owner|creator|created|status|birth)/i;

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
  const name = best(table.columns, NAME, address) ?? called(table.columns, address);
  if (address || name) {
    return {
      address: address && { column: address.name },
      name: name && { column: name.name }
    };
  }
  if (depth >= 1) return { address: null, name: null };
  for (const link of links) {
    if (link.from !== table.name || OF_THE_TIME.test(link.column)) continue;
    if (!(PEOPLE.test(link.column) || PEOPLE.test(link.to))) continue;
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
  return (
    columns.find(
      (column) => tells(column) && [...column.frequent.keys()].every((text) => ADDRESSED.test(text))
    ) ?? null
  );
}

/** A column of short words, each nearly once, beside an address. */
function called(columns: ColumnFacts[], address: ColumnFacts | null): ColumnFacts | null {
  if (!address) return null;
  const isName = (text: string): boolean => /^\p{L}[\p{L}\p{M} .'’()-]{1,60}$/u.test(text);
  return (
    columns.find(
      (column) => column !== address && tells(column) && [...column.frequent.keys()].every(isName)
    ) ?? null
  );
}

function best(
  columns: ColumnFacts[],
  pattern: RegExp,
  not: ColumnFacts | null = null
): ColumnFacts | null {
  const fitting = columns.filter(
    (column) =>
      column !== not &&
      pattern.test(column.name) &&
      !NO_NAME.test(column.name) &&
      column.texts >= column.filled * 0.8 &&
      tells(column)
  );
  fitting.sort((a, b) => b.filled - a.filled || a.name.length - b.name.length);
  return fitting[0] ?? null;
}

/** Whether a column's texts differ from row to row, as what rows are called does. */
function tells({ name, texts, filled, distinct }: ColumnFacts): boolean {
  if (texts === 0 || OF_THE_TIME.test(name)) return false;
  return filled < 3 || distinct >= Math.max(2, filled * 0.5);
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

/** All links of a column to tables that may say what its values are called, those of the given sense first. */
export function linksTo(
  links: readonly Link[],
  table: string,
  column: string,
  sense: RegExp
): Link[] {
  const own = links.filter((link) => link.from === table && link.column === column);
  const rank = (link: Link): number => (sense.test(link.to) ? 0 : 1);
  return own.sort((a, b) => rank(a) - rank(b));
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
        !OF_THE_TIME.test(link.column) &&
        link.column !== to?.column
    );
    if (to && person && table.columns.length <= 12)
      return { table: name, conversation: to.column, person };
  }
  return null;
}

export { CONVERSATIONS, PEOPLE };
