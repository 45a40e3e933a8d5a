import type { ColumnFacts } from './column';
import type { SampledTable } from './sample';

/** A column of one table that names rows of another. */
export interface Link {
  from: string;
  column: string;
  to: string;
  key: string;
  /** The tables say so themselves. */
  declared: boolean;
}

const MOSTLY = 0.97;

/** Columns that refer to other tables, as declared, or as their values and names show. */
export function findLinks(tables: SampledTable[]): Link[] {
  const links: Link[] = [];
  for (const from of tables) {
    for (const column of from.columns) {
      links.push(...linksOf(from, column, tables));
    }
  }
  return [...links, ...textLinks(tables, links)];
}

/** Share of a table's rows that must have a row of texts for these to be theirs. */
const COVERED = 0.6;

/** Tables of texts without times, whose numbers are those of a table of times without texts, whatever they are called. */
function textLinks(tables: readonly SampledTable[], known: readonly Link[]): Link[] {
  const texts = tables.filter(
    ({ columns, rows }) => rows.length > 2 && columns.some(isTextual) && !columns.some(isTime)
  );
  const roots = tables.filter(
    ({ columns, rows }) => rows.length > 2 && columns.some(isTime) && !columns.some(isTextual)
  );
  return texts.flatMap((from) =>
    roots.flatMap((to) => {
      if (known.some((link) => link.from === from.name && link.to === to.name)) return [];
      return to.keys.flatMap((key) => {
        const found = from.columns.find((column) => covers(from, column, to, key));
        return found
          ? [{ from: from.name, column: found.name, to: to.name, key, declared: false }]
          : [];
      });
    })
  );
}

function isTextual({ wording, blobs, filled, frequent }: ColumnFacts): boolean {
  const [first] = frequent.keys();
  const isRecord = first !== undefined && /^\s*[{[]/.test(first);
  return isRecord || (wording?.score ?? 0) > 0.4 || (blobs > 0 && blobs >= filled * 0.9);
}

function isTime({ clock }: ColumnFacts): boolean {
  return clock !== null;
}

function covers(from: SampledTable, column: ColumnFacts, to: SampledTable, key: string): boolean {
  // A row number of its own says nothing of others.
  if (from.schema.columns[from.index(column.name)]?.isRowid || column.filled < column.rows)
    return false;
  if (isTextual(column) || !includes(to, key, column, false)) return false;
  return from.valuesOf(column.name).size >= to.rows.length * COVERED;
}

/** Most tables that one column is taken to refer to; rows split over several tables share their key. */
const MOST_LINKS = 4;

function linksOf(from: SampledTable, column: ColumnFacts, tables: SampledTable[]): Link[] {
  const declared = from.references.get(column.name.toLowerCase());
  const found: { link: Link; score: number }[] = [];
  for (const to of tables) {
    for (const key of to.keys) {
      if (to === from) continue;
      const isDeclared = declared?.table === to.name.toLowerCase();
      const score = isDeclared ? 10 : likeness(from, column, to, key);
      if (score <= 0 || !(includes(to, key, column, isDeclared) || isAllButOne(to, key, column)))
        continue;
      const link = { from: from.name, column: column.name, to: to.name, key, declared: isDeclared };
      found.push({ link, score });
    }
  }
  if (found.length === 0) return numberLinks(from, column, tables);
  found.sort((a, b) => b.score - a.score);
  const enough = found.filter(({ score }) => score >= Math.min(4, found[0]!.score));
  return enough.slice(0, MOST_LINKS).map(({ link }) => link);
}

/** Different numbers that must agree before they are taken for those of another table whose name says nothing. */
const LEAST_NUMBERS = 4;

/** A column of numbers that are nearly all those of a small table with words in it, and no others. */
function numberLinks(from: SampledTable, column: ColumnFacts, tables: SampledTable[]): Link[] {
  const { numbers, filled, distinct, clock, frequent } = column;
  const isPlain = filled > 0 && numbers === filled && clock === null && !frequent.has('0');
  if (!isPlain || distinct < LEAST_NUMBERS || distinct > filled * 0.5) return [];
  return tables.flatMap((to) => {
    if (to === from || to.rows.length > from.rows.length * 0.5) return [];
    if (!to.columns.some(({ texts }) => texts > 0) || distinct < to.rows.length * 0.5) return [];
    const key = to.keys.find((name) => includes(to, name, column, false));
    // Numbers from one on stand in every table.
    const first = Math.min(...[...frequent.keys()].slice(0, 1000).map(Number));
    if (key === undefined || first <= distinct) return [];
    return [{ from: from.name, column: column.name, to: to.name, key, declared: false }];
  });
}

/** Whether the values of a column are among those of a key. */
function includes(to: SampledTable, key: string, column: ColumnFacts, declared: boolean): boolean {
  if (column.filled === 0 || column.distinct === 0) return false;
  const values = to.valuesOf(key);
  let found = 0;
  let asked = 0;
  for (const value of column.frequent.keys()) {
    // Zero and minus one stand for nobody.
    if (value === '0' || value === '-1') continue;
    asked++;
    if (values.has(value)) found++;
  }
  return asked > 0 && found >= asked * (declared ? 0.5 : to.complete ? MOSTLY : 0.6);
}

/** Links of values that lie inside a column: those of a table of people, whatever they are called. */
export function linksOfValues(
  from: string,
  facts: ColumnFacts,
  tables: Iterable<SampledTable>
): Link[] {
  if (facts.distinct < 2 || facts.blobs > 0 || averageLength(facts) < 4) return [];
  return [...tables].flatMap((to) =>
    to.name === from
      ? []
      : to.keys
          .filter((key) => includes(to, key, facts, false) || isAllButOne(to, key, facts))
          .map((key) => ({ from, column: facts.name, to: to.name, key, declared: false }))
  );
}

/** Fewer addresses than these may agree by chance. */
const LEAST_ADDRESSES = 3;

/** Texts that are a table's but for a single one: who has the account is none of the own contacts. */
function isAllButOne(to: SampledTable, key: string, column: ColumnFacts): boolean {
  const { distinct, frequent } = column;
  if (distinct <= LEAST_ADDRESSES || averageLength(column) < 6) return false;
  const values = to.valuesOf(key);
  return [...frequent.keys()].filter((value) => !values.has(value)).length === 1;
}

/** How much a column's name, or the nature of its values, speaks for a table. */
function likeness(from: SampledTable, column: ColumnFacts, to: SampledTable, key: string): number {
  // Rows of one thing kept in several tables carry the same key under the same name.
  const name = bare(column.name);
  if (key.toLowerCase() === column.name.toLowerCase() && /id$/i.test(key) && name.length > 2)
    return 5;
  if (isNamedAlike(from, column, to, key)) return 5;
  const table = singular(to.name.toLowerCase());
  const long = column.texts === column.filled && averageLength(column) >= 6;
  if (name.length >= 3 && (table.endsWith(name) || name.endsWith(table))) return 6;
  if (name.length >= 3 && table.length >= 3 && (table.includes(name) || name.includes(table)))
    return 5;
  if (sameSense(column.name, to.name)) return 4;
  if (namesPeople(column) && to.columns.some(mostlyAddresses)) return 3;
  if (
    isNameless(column.name) &&
    isNameless(key) &&
    column.distinct > 1 &&
    to.columns.some(mostlyAddresses)
  )
    return 3;
  // Long texts do not agree by chance.
  if (long && column.distinct > 1 && key.toLowerCase() !== column.name.toLowerCase()) return 2;
  return long && column.distinct > 2 ? 1 : 0;
}

/** A number that is called like the row number of another table, and is none of its own table's. */
function isNamedAlike(
  from: SampledTable,
  { name, distinct }: ColumnFacts,
  to: SampledTable,
  key: string
): boolean {
  const isRowid = (table: SampledTable, column: string): boolean =>
    table.schema.columns[table.index(column)]?.isRowid === true;
  const isAlike = name.length > 2 && key.toLowerCase() === name.toLowerCase();
  return isAlike && distinct > 1 && isRowid(to, key) && !isRowid(from, name);
}

/** A column called after people that tells more than two apart: a mark for the own lines tells two. */
function namesPeople({ name, distinct, clock }: ColumnFacts): boolean {
  return distinct > 2 && clock === null && (PEOPLE.test(name) || RECIPIENT.test(name));
}

/** Names that stand for declarations that are lost. */
export function isNameless(name: string): boolean {
  return /^column\d+$/.test(name);
}

/** A telephone number, which is no day, or a name with a host. */
export const ADDRESSED = /^(?!\d{4}-\d\d-\d\d)\+?\d[\d\s().-]{6,16}$|^[^\s@]+@[^\s@]+$/;

export function mostlyAddresses({ texts, frequent }: ColumnFacts): boolean {
  const known = [...frequent.keys()];
  return texts > 0 && known.filter((text) => ADDRESSED.test(text)).length >= known.length * 0.7;
}

function averageLength(column: ColumnFacts): number {
  let total = 0;
  for (const text of column.frequent.keys()) total += text.length;
  return total / Math.max(1, column.frequent.size);
}

/** A column's name without what only says that it is a key. */
function bare(name: string): string {
  return name
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .replace(/^z(?=[a-z])/, '')
    .replace(/_?(row)?_?(id|uuid|guid|pk|key|ref|fk)s?$/, '')
    .replace(/^(fk|ref)_?/, '')
    .replace(/_/g, '');
}

function singular(name: string): string {
  return name
    .replace(/^z(?=[a-z])/, '')
    .replace(/_/g, '')
    .replace(/ies$/, 'y')
    .replace(/s$/, '');
}

/** Words that mean people and words that mean conversations. */
export const PEOPLE =
  /(sender|author|speaker|talker|writer|from|user|nick|handle|contact|person|people|member|participant|recipient|peer|jid|account|buddy|friend|address|remote|counterpart|creator|partner|identity|profile)/i;
export const RECIPIENT =
  /((^|_)to($|_|[A-Z])|^to(addr|address|user|id|jid|number|name|uid|party|handle)|recipient|dest|target|receiver)/i;
export const CONVERSATIONS =
  /(chat|conversation|convo|conv|thread|room|channel|dialog|session|segment|buffer|group|topic)/i;

function sameSense(column: string, table: string): boolean {
  return (
    ((PEOPLE.test(column) || RECIPIENT.test(column)) && PEOPLE.test(table)) ||
    (CONVERSATIONS.test(column) && CONVERSATIONS.test(table))
  );
}
