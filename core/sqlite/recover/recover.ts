import { adoptLooseTrees } from './adopt';
import type { Database, LiveRow } from '../read/database';
import { decodeRecord } from '../format/record';
import { SCHEMA_TABLE, schemaRow, tableSchema, type TableSchema } from '../format/schema';
import { isReread, type LiveRows, readLiveRows, sampleOf } from '../read/live-rows';
import { foldRows } from './fold';
import { rowsFromEntries } from './index-rows';
import { append, roomFor, type TextEncoding } from '../../host';
import { ENOUGH_ROWS, indexLayout, type Layout, learnEntry, learnRow, tableLayout } from './layout';
import { inferRowNumbers, sequenceOf } from './rownumbers';
import { copyOf, type FreedRowList, FreedRows, WholeRows } from './freed-rows';
import { IndexSupport } from './support';
import { mapPages, noteTree } from './owners';
import { searchAll, type SearchCrew, type ShareFound } from './share';
import { addSpace, type FreedSpace } from './space';
import { isSchemaPlace, sweep } from './sweep';
import { guessTables, type LooseTree, looseTrees, suitsTable } from '../read/guess-tables';

/** A table with everything that could be read of it. */
export interface RecoveredTable {
  schema: TableSchema;
  /** The table itself was deleted; its declaration was recovered. */
  dropped: boolean;
  /** It was put together from a raw medium. */
  carved?: boolean;
  /** The last row number given, where the table counts (AUTOINCREMENT); else null. */
  lastNumber?: number | null;
  live: LiveRows;
  freed: FreedRowList;
}

export interface RecoverProgress {
  stage: 'rows' | 'declarations' | 'freed';
  done: number;
  total: number;
}

export interface RecoverOptions {
  /** Tables whose rows are wanted. */
  wanted: (table: TableSchema) => boolean;
  /** Also search what no live structure uses. */
  freed: boolean;
  /** Other threads that help with large files. */
  crew?: SearchCrew;
  /** Takes up how much freed space was searched. */
  space?: FreedSpace;
  /** Tables with more rows are read again instead of being held. */
  mostHeld?: number;
  /** Only so many of the first rows of each table, for a first look. */
  firstOnly?: (table: TableSchema) => number;
}

/** Reads the wanted tables, live and freed, yielding progress as it goes. */
export function* recoverTables(
  database: Database,
  options: RecoverOptions
): Generator<RecoverProgress, RecoveredTable[]> {
  const tables: RecoveredTable[] = [];
  const wanted = database.tables.filter(options.wanted);
  for (const schema of wanted) {
    yield { stage: 'rows', done: tables.length, total: wanted.length };
    if (options.firstOnly && !database.loose) {
      const first = firstRows(database, schema, options.firstOnly(schema));
      tables.push(readTable(database, schema, first));
      continue;
    }
    const live = database.loose ? [] : yield* liveRows(database, schema, options);
    tables.push(readTable(database, schema, live));
  }
  // Behind the live rows, which tell of the pages in passing what is asked here.
  const dropped = options.freed ? yield* droppedTables(database) : [];
  const all = [...database.tables, ...dropped];
  for (const schema of dropped.filter(options.wanted)) tables.push(readTable(database, schema, []));
  if (isCutOff(database) && database.pages.linksHold) yield* readAdopted(database, tables);
  // Where no table is asked for, nothing but the space can be told.
  const isSearched = tables.length > 0 || options.space !== undefined;
  if (options.freed && isSearched) yield* fillFreed(database, tables, all, options);
  return tables;
}

function firstRows(database: Database, schema: TableSchema, most: number): LiveRow[] {
  const rows: LiveRow[] = [];
  for (const row of database.rows(schema)) {
    rows.push(row);
    if (rows.length >= most) break;
  }
  return rows;
}

function readTable(database: Database, schema: TableSchema, live: LiveRows): RecoveredTable {
  const { carved } = database;
  const lastNumber = sequenceOf(database, schema);
  return { schema, dropped: schema.root === 0, carved, lastNumber, live, freed: [] };
}

/** Whether pages of a tree could not be reached. */
function isCutOff({ damage }: Database): boolean {
  return damage.some(({ structure }) => structure === 'page');
}

/** Damage can cut leaves off their tree: those are found by what they hold. */
function* readAdopted(
  database: Database,
  tables: RecoveredTable[]
): Generator<RecoverProgress, void> {
  const byName = new Map(tables.map((table) => [table.schema.name, table]));
  const grown = adoptLooseTrees(database, ({ name }) => byName.get(name)?.live ?? null);
  const known = database.damage.slice();
  for (const name of grown) {
    const table = byName.get(name);
    if (table) table.live = yield* liveRows(database, table.schema);
  }
  database.damage.splice(0, Infinity, ...known);
}

function* liveRows(
  database: Database,
  schema: TableSchema,
  { mostHeld, crew }: Pick<RecoverOptions, 'mostHeld' | 'crew'> = {}
): Generator<RecoverProgress, LiveRows> {
  const expected = Math.max(1, database.pages.pageCount);
  const { notes, end } = noteTree(database, schema.name);
  const readers = crew && (() => crew.readers());
  const work = readLiveRows(database, schema, { mostHeld, observer: notes, readers });
  let step = work.next();
  for (; !step.done; step = work.next()) {
    // How many rows there are is known at the end alone: a page holds about twenty.
    yield { stage: 'rows', done: Math.min(step.value / 20, expected), total: expected };
  }
  end();
  return step.value;
}

/** Declarations that lie in freed space and whose table no longer exists. */
function* droppedTables(database: Database): Generator<RecoverProgress, TableSchema[]> {
  const layout = tableLayout(SCHEMA_TABLE, true);
  const found = new Map<string, TableSchema>();
  for (const event of sweep(database, { layouts: [layout], only: isSchemaPlace })) {
    if (event.type === 'progress') yield { stage: 'declarations', ...event };
    if (event.type !== 'row' || !('record' in event.row)) continue;
    const row = schemaRow(decodeRecord(event.row.record, database.header.encoding));
    const table = row && tableSchema({ ...row, root: 0 });
    if (!table || table.name !== row!.table || database.table(table.name)) continue;
    if (!found.has(table.name)) found.set(table.name, table);
  }
  if (found.size === 0) return guessDropped(database);
  return [...found.values()];
}

function* fillFreed(
  database: Database,
  tables: RecoveredTable[],
  all: TableSchema[],
  { space, crew }: RecoverOptions
): Generator<RecoverProgress, void> {
  const byName = new Map(tables.map((table) => [table.schema.name, table]));
  const { encoding } = database.header;
  const support = new IndexSupport(database);
  const found = new Map<string, FreedRows>();
  const room = crew && roomFor;
  for (const { schema } of tables) found.set(schema.name, new FreedRows(schema, encoding, room));
  const layouts = layoutsFor(database, byName, all);
  let shares = yield* search(database, layouts, crew);
  if (learnFreed(layouts, shares, encoding)) shares = yield* search(database, layouts, crew);
  for (const [name, { whole }] of found) whole.reserve(rowsFound(shares, name));
  for (const share of shares) {
    for (const [table, rows] of share.rows) found.get(table)?.whole.append(rows);
    for (const row of share.cut) found.get(row.table)?.add(row);
    for (const entry of share.entries) support.add(entry);
    if (space) addSpace(space, share.space);
  }
  for (const table of tables) {
    const { schema, live } = table;
    const freed = found.get(schema.name)!;
    support.resolve(freed, schema, live);
    foldRows(schema, [live, ...rowsBeside(database, schema)], freed);
    append(freed.cut, rowsFromEntries(support.entriesOf(schema), schema, live, freed));
    inferRowNumbers(database, schema, live, freed);
    table.freed = freed;
  }
}

/** Complete rows of a table. */
function rowsFound(shares: readonly ShareFound[], table: string): number {
  const rows = shares.flatMap((share) => share.rows.filter(([name]) => name === table));
  return rows.reduce((sum, [, { count }]) => sum + count, 0);
}

/** The live rows of the same table in the databases beside loose pages. */
function rowsBeside({ beside }: Database, schema: TableSchema): LiveRows[] {
  return beside.flatMap((other) => {
    const same = other.table(schema.name);
    if (!same || same.order.length !== schema.order.length) return [];
    const work = readLiveRows(other, same);
    let step = work.next();
    while (!step.done) step = work.next();
    return [step.value];
  });
}

function* search(
  database: Database,
  layouts: Layout[],
  crew: SearchCrew | undefined
): Generator<RecoverProgress, ShareFound[]> {
  const work = searchAll(database, layouts, mapPages(database), crew ?? null);
  let step = work.next();
  for (; !step.done; step = work.next()) {
    yield { stage: 'freed', ...step.value };
  }
  return step.value;
}

/** Rows of which no byte is in doubt, from which a table may be known. */
const BEYOND_DOUBT = 40;

/**
 * Where hardly a live row tells what a table's columns hold, its whole freed
 * rows do: then a second search tells readings apart that the first could
 * not. Says whether anything was learned.
 */
function learnFreed(
  layouts: readonly Layout[],
  shares: readonly ShareFound[],
  encoding: TextEncoding
): boolean {
  const before = layouts.map((layout) => layout.rowsSeen);
  for (const layout of layouts) {
    const { table } = layout;
    if (!table || !layout.wanted || layout.rowsSeen >= ENOUGH_ROWS) continue;
    const whole = new WholeRows(table, encoding);
    for (const { rows } of shares)
      for (const [name, packed] of rows) if (name === table.name) whole.append(copyOf(packed));
    const seen = new Set<number>();
    for (let at = 0; at < whole.count && seen.size < ROWS_LEARNED; at++) {
      const { rebuilt, score, hash } = whole.facts(at);
      if (rebuilt > 0 || score < BEYOND_DOUBT || seen.has(hash)) continue;
      seen.add(hash);
      learnRow(layout, whole.row(at).values, layout.columns.length);
    }
  }
  return layouts.some(({ rowsSeen }, i) => rowsSeen >= ENOUGH_ROWS && before[i]! < ENOUGH_ROWS);
}

const ROWS_LEARNED = 2000;

/** Layouts that know enough of the rows to read a single cell again. */
export function sampledLayouts(database: Database): Layout[] {
  const work = droppedTables(database);
  let step = work.next();
  while (!step.done) step = work.next();
  const tables = new Map<string, RecoveredTable>();
  for (const schema of [...database.tables, ...step.value]) {
    const live: LiveRow[] = [];
    if (schema.root > 0 && !database.loose) {
      for (const row of database.rows(schema)) {
        live.push(row);
        if (live.length >= ROWS_LEARNED) break;
      }
    }
    tables.set(schema.name, { schema, dropped: schema.root === 0, live, freed: [] });
  }
  return layoutsFor(
    database,
    tables,
    [...tables.values()].map(({ schema }) => schema)
  );
}

/** Layouts of all tables, so that unwanted ones compete for their own bytes, and of the wanted ones' indexes. */
function layoutsFor(
  database: Database,
  wanted: Map<string, RecoveredTable>,
  all: TableSchema[]
): Layout[] {
  const layouts: Layout[] = [tableLayout(SCHEMA_TABLE, false)];
  for (const table of all) {
    const target = wanted.get(table.name);
    const layout = tableLayout(table, target !== undefined);
    for (const row of sampleOf(target?.live ?? [])) learnRow(layout, row.values, row.stored);
    layouts.push(layout);
  }
  for (const index of database.indexes) {
    const table = wanted.get(index.table);
    const layout = table && indexLayout(index, table.schema);
    if (!layout) continue;
    layout.wanted = true;
    learnIndex(layout, table);
    layouts.push(layout);
  }
  return layouts;
}

/** Rows that are enough to know what an index holds. */
const INDEX_SAMPLE = 20_000;

function learnIndex(layout: Layout, table: RecoveredTable): void {
  const names = table.schema.columns.map((column) => column.name.toLowerCase());
  const positions = layout.index!.columns.map((name) => names.indexOf(name?.toLowerCase() ?? ''));
  const step = isReread(table.live) ? 1 : Math.ceil(table.live.length / INDEX_SAMPLE);
  let i = 0;
  for (const { values, rowid } of sampleOf(table.live)) {
    if (i++ % step === 0) learnEntry(layout, positions, values, rowid);
  }
}

/** Free pages that are looked at; more of them are more of the same. */
const MOST_PAGES = 2000;
/** Rows of a kind that are no accident. */
const LEAST_ROWS = 10;

/**
 * Tables that were dropped and whose declarations are wiped: free pages that
 * still are whole leaves of rows which no known table could hold. Their
 * columns are called by their places, and have the kinds of value seen in them.
 */
function guessDropped(database: Database): TableSchema[] {
  const { pages, header, tables } = database;
  if (!pages.linksHold || database.guessed) return [];
  const uses = mapPages(database);
  let looked = 0;
  const isTaken = (number: number): boolean => {
    const { role } = uses.get(number);
    return (role !== 'free' && role !== 'unknown') || looked++ > MOST_PAGES;
  };
  const trees = looseTrees(pages, header.encoding, isTaken);
  const strange = trees.filter((tree) => !tables.some((table) => couldHold(table, tree)));
  const guessed = guessTables(strange, []).tables.map((table) => ({ ...table, root: 0 }));
  return guessed.filter((table) => countRows(table, strange) >= LEAST_ROWS);
}

/** Rows can be older than columns that were added. */
function couldHold(table: TableSchema, { columns }: LooseTree): boolean {
  return columns.length === 0 || suitsTable(columns, table);
}

function countRows(table: TableSchema, trees: readonly LooseTree[]): number {
  return trees
    .filter(({ columns }) => columns.length === table.order.length && suitsTable(columns, table))
    .reduce((sum, { columns: [first] }) => {
      const { null: none, integer, real, text, blob } = first!;
      return sum + none + integer + real + text + blob;
    }, 0);
}
