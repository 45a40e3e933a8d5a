import { lookUp, type Expression } from '../profile';
import type { ColumnFacts } from './column';
import { ADDRESSED, CONVERSATIONS, PEOPLE, type Link } from './links';
import type { SampledTable } from './sample';
import { isPeople } from './shape';

const ADDRESS =
  /(jid|phone|number|e164|e?mail|addr|handle|user_?name|nick|identity|uri|sip|identifier|login|mri|raw_string|account|uin|handle)/i;
const NAME = /(display_?name|full_?name|name|title|subject|heading|alias|label|topic)/i;
const NO_NAME =
  /((?<!pro)file|path|mime|color|avatar|photo|image|url|type|service|protocol|device|resource|package|hash|token|key$)/i;
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
  const [address = addressed(table.columns)] = fitting(table.columns, ADDRESS, null);
  const names = fitting(table.columns, NAME, address);
  const name = names.length > 0 ? null : called(table.columns, address);
  if (address || name || names.length > 0) {
    return { address: address && { column: address.name }, name: firstOf(name ? [name] : names) };
  }
  if (depth >= 1) return { address: null, name: null };
  for (const link of links) {
    if (link.from !== table.name || OF_THE_TIME.test(link.column)) continue;
    if (!(PEOPLE.test(link.column) || PEOPLE.test(link.to))) continue;
    // The same in every row is who has the account.
    if (table.rows.length > 2 && (table.column(link.column)?.distinct ?? 0) < 2) continue;
    const inner = labelOf(tables.get(link.to)!, tables, links, depth + 1);
    if (!inner.address && !inner.name) continue;
    const through = (expression: Expression | null): Expression | null =>
      expression && lookUp(link.to, link.key, { column: link.column }, expression);
    return { address: through(inner.address), name: through(inner.name) };
  }
  return { address: null, name: null };
}

/** What a person is called: by an address, or else by what the rows of other tables know each by. */
export function personLabel(
  table: SampledTable,
  tables: ReadonlyMap<string, SampledTable>,
  links: readonly Link[]
): Label {
  const label = labelOf(table, tables, links);
  if (label.address || !label.name) return label;
  const handle = table.columns.find(
    ({ name, texts, filled }) => table.keys.includes(name) && texts === filled
  );
  const isNamed = JSON.stringify(label.name) === JSON.stringify({ column: handle?.name });
  return handle && !isNamed ? { ...label, address: { column: handle.name } } : label;
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

/** Names that stand in for one another at most. */
const MOST_NAMES = 3;

function firstOf(columns: readonly ColumnFacts[]): Expression | null {
  const all = columns.slice(0, MOST_NAMES).map(({ name }): Expression => ({ column: name }));
  // A column that is filled everywhere leaves nothing to the others.
  if (all.length < 2 || columns[0]!.filled === columns[0]!.rows) return all[0] ?? null;
  return { first: all };
}

/** What others call somebody goes before what somebody logs in with. */
function formality(name: string): number {
  if (/(display|full|real)/i.test(name)) return 2;
  return /(user|login|nick|screen)/i.test(name) ? 0 : 1;
}

/** Columns whose names fit, the best filled first. */
function fitting(columns: ColumnFacts[], pattern: RegExp, not: ColumnFacts | null): ColumnFacts[] {
  const found = columns.filter(
    (column) =>
      column !== not &&
      pattern.test(column.name) &&
      !NO_NAME.test(column.name) &&
      column.texts >= column.filled * 0.8 &&
      tells(column)
  );
  return found.sort(
    (a, b) =>
      b.filled - a.filled || formality(b.name) - formality(a.name) || a.name.length - b.name.length
  );
}

/** A column that calls each address of another by one name; null where there is none. */
export function nameBeside(table: SampledTable, address: ColumnFacts): string | null {
  const at = table.index(address.name);
  const found = table.columns.find((column) => {
    if (column === address || !NAME.test(column.name) || NO_NAME.test(column.name)) return false;
    if (column.texts === 0 || column.distinct < 2) return false;
    const own = table.index(column.name);
    const names = new Map(table.rows.map((row) => [row[at], row[own]]));
    return table.rows.every((row) => names.get(row[at]!) === row[own]);
  });
  return found?.name ?? null;
}

/** Whether a column's texts differ from row to row, as what rows are called does. */
function tells({ name, texts, filled, distinct }: ColumnFacts): boolean {
  if (texts === 0 || OF_THE_TIME.test(name)) return false;
  return filled < 3 || distinct >= Math.max(2, filled * 0.5);
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
