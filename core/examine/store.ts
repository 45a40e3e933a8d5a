import { append } from '../host';
import {
  GUESSED_NAME,
  noSpace,
  openDatabase,
  type FreedSpace,
  type Database,
  recoverTables,
  type Damage,
  type DatabaseFiles,
  type OpenedDatabase,
  type RecoveredTable,
  type TableSchema
} from '../sqlite';
import {
  agreeingProfiles,
  offeredChoice,
  OFFER_FROM,
  READ_FROM,
  readsHashedNames,
  StoreStream,
  TableSet,
  tablesOf,
  isThin,
  sampleDatabase,
  workOut,
  enriched,
  possibleReadings,
  type OfferedReading,
  type SampledTable,
  inZone,
  readsZoneless,
  type MessageStream,
  type StoreContext,
  type StoreReading,
  type WorkedOut,
  type Choice,
  type ReadingProfile
} from '../profiles';
import {
  type CandidateFacts,
  type Depth,
  type Findings,
  type JsonChunk,
  type ReadingFacts,
  type MessageBatch,
  type Note
} from '../records';
import { assembleStore, type StoreFacts } from '../messages';
import { crewFor, type Crew } from './helper';
import { limitsOf } from './limits';
import type { Meanings } from './meanings';
import { narrowed, narrowing, wantsProfile } from './narrow';
import type { PassRequest, Stage } from './types';

export interface StoreRequest {
  source: string;
  files: DatabaseFiles;
  /** What the store is called. */
  path: string;
  /** A database that was put together before. */
  opened?: OpenedDatabase | undefined;
  /** Tables of the source's other databases, to name those that lost their declaration; grows. */
  known: TableSchema[];
  /** What is known of the source's other databases; grows. */
  meanings: Meanings;
  /** Databases that no known profile reads wait until those were examined that one does. */
  mayWait: boolean;
  modifiedAt: number | null;
  /** The id of a store of the source, by what reads it. */
  idOf: (path: string, profile: string) => string;
  pass: Pick<
    PassRequest,
    | 'depth'
    | 'region'
    | 'zone'
    | 'early'
    | 'want'
    | 'profiles'
    | 'offered'
    | 'mostHeld'
    | 'frame'
    | 'helpers'
  >;
}

export type StoreEvent =
  | { type: 'step'; stage: Stage; done: number; total: number }
  /** Nothing goes on before that. */
  | { type: 'wait'; until: Promise<unknown> }
  | { type: 'batch'; batch: MessageBatch }
  | { type: 'json'; records: JsonChunk[]; count: number }
  | { type: 'found'; findings: Findings; final: boolean }
  | { type: 'candidate'; candidate: CandidateFacts }
  | { type: 'note'; note: Note };

/** A profile that will be read, and the id of the store that it gives. */
interface Reading extends Choice {
  id: string;
}

/**
 * Examines one database: opens it, picks the reading profiles, reads live
 * rows and what freed space holds, and gives records.
 * @throws SqliteFormatError when the file is no readable database.
 */
export function* examineStore(request: StoreRequest): Generator<StoreEvent, 'done' | 'waits'> {
  const { database, told } = request.opened ?? openDatabase(request.files, request.known);
  const { profiles } = request.pass;
  if (request.mayWait && agreeingProfiles(database, database.tables, profiles).length === 0)
    return 'waits';
  append(request.known, database.tables);
  for (const text of told) yield { type: 'note', note: repaired(database.name, text) };
  const { depth, early } = request.pass;
  const cut = truncation(database, request.files.main.size);
  if (cut) yield { type: 'note', note: cut };
  let choices = yield* chooseProfiles(database, request);
  request.meanings.add(
    choices.map(({ profile }) => profile),
    database.tables
  );
  let offered: OfferedReading[] = [];
  if (!choices.some(({ profile }) => profile.messages.length > 0)) {
    const worked = yield* workedOut(database, request, choices);
    offered = worked.offered;
    choices = [...choices, ...worked.choices];
  }
  const isLost = database.guessed || choices.every(isGuessed);
  const readFrom = isLost ? READ_GUESSED_FROM : READ_FROM;
  const readings = isRead(choices, readFrom) ? [] : offered;
  yield { type: 'candidate', candidate: candidateOf(request, choices, readFrom, readings) };
  if (readings.length > 0) yield { type: 'note', note: readingsOffered(request.path, readings) };
  choices = choices.filter(({ fit }) => fit >= readFrom);
  const chosen = choices.map((choice) => ({
    ...choice,
    profile: inZone(choice.profile, request.pass.zone),
    id: request.idOf(request.path, choice.profile.id)
  }));
  if (chosen.length === 0) return 'done';
  if (early && depth !== 'indexed') yield* unmeasured(firstLook(request, database, chosen));
  const space = noSpace();
  // Another thread opens the files as they are: what was put together here is searched here.
  const isSound = request.opened === undefined && told.length === 0;
  const crew = isSound ? crewFor(request.pass.helpers, request.files) : null;
  if (depth !== 'indexed' && isLarge(database)) crew?.start();
  const { path } = request;
  const { mostHeld } = request.pass;
  const tables = yield* recover(database, chosen, depth, { mostHeld, space, crew });
  yield* found(request, chosen, tables, limitsOf(database, tables, space, depth), crew, true);
  for (const note of damageNotes(database.damage)) yield { type: 'note', note };
  for (const reason of crew?.failures ?? []) yield { type: 'note', note: unhelped(path, reason) };
  return 'done';
}

/** Nothing is lost where a helper fails, but the pass took longer than it had to. */
function unhelped(path: string, reason: string): Note {
  const text = `A helper thread failed on ${path} (${reason}). Its part was done without it; nothing is missing.`;
  return { level: 'info', code: 'helper-failed', text, path };
}

/** Where the declarations are lost no name can speak for a mapping; what is read says that it was worked out. */
const READ_GUESSED_FROM = 40;

/** Whether a profile reads a table whose declaration is lost. */
function isGuessed({ profile }: Choice): boolean {
  return profile.messages.some(({ table }) => table.startsWith(GUESSED_NAME));
}

function isRead(choices: readonly Choice[], readFrom: number): boolean {
  return choices.some(({ fit }) => fit >= readFrom);
}

/** Says which tables may hold messages where none is read. */
function readingsOffered(path: string, readings: readonly OfferedReading[]): Note {
  const list = readings.map(({ table, rows, more, fit, reasons, against }) => {
    const said = against ?? reasons[0];
    const first = said === undefined ? '' : `: ${said}`;
    return `${table} (${rows}${more ? ' or more' : ''} rows, fit ${fit}${first})`;
  });
  const text = `Nothing was read as messages in ${path}, but it holds dated texts. Tables that may be read: ${list.join('; ')}. Choose one of them, or none, for this store.`;
  // What plainly looks like something else is offered too, but nobody has to be told.
  const level = readings.every(({ against }) => against !== null) ? 'info' : 'warning';
  return { level, code: 'readings-offered', text, path };
}

interface WorkedChoices {
  choices: Choice[];
  offered: OfferedReading[];
}

/** What the data themselves show, where no profile is known. */
function* workedOut(
  database: Database,
  { pass, path, meanings }: StoreRequest,
  known: readonly Choice[]
): Generator<StoreEvent, WorkedChoices> {
  if (!wantsMessages(pass)) return { choices: [], offered: [] };
  const work = sampleDatabase(database);
  let tables = 0;
  let step = work.next();
  for (; !step.done; step = work.next()) {
    yield { type: 'step', stage: 'rows', done: tables++, total: tables + 1 };
  }
  // What a known profile reads has its meaning.
  const closed = new Set([
    ...known.flatMap(({ profile }) => [...tablesOf(profile)]),
    ...meanings.closed(database.tables)
  ]);
  const around: StoreContext = { path, closed };
  const byLive = workOut(step.value, around);
  // Searching a large database for what the few rows of small tables leave open is worth it where no other table is read.
  const isKnown = isLarge(database) && byLive !== null && byLive.fit >= READ_FROM;
  const isSearched = pass.depth !== 'indexed' && !isKnown;
  const fuller = isSearched ? yield* withFreed(database, step.value) : null;
  const byAll = fuller && workOut(fuller, around);
  const worked = (byAll?.fit ?? 0) > (byLive?.fit ?? 0) ? byAll : byLive;
  const best = bestOffered(pass.offered ?? [], database, step.value, worked);
  const choices = best && best.fit >= OFFER_FROM ? [best] : [];
  const offered = isRead(choices, READ_FROM) ? [] : possibleReadings(fuller ?? step.value, around);
  return { choices, offered };
}

function wantsMessages({ want }: StoreRequest['pass']): boolean {
  return want.kinds.has('messages');
}

/** A profile of another case, where it reads the tables better than what was worked out. */
function bestOffered(
  offered: readonly ReadingProfile[],
  { tables }: Database,
  samples: readonly SampledTable[],
  worked: WorkedOut | null
): Choice | null {
  let best: Choice | null = worked;
  for (const profile of offered) {
    const choice = offeredChoice(profile, tables, samples);
    if (choice && choice.fit > (best?.fit ?? 0)) best = choice;
  }
  return best;
}

/** Databases past this size whose messages were all deleted are looked into only where a profile is known. */
const MOST_WORKED_OUT = 256 * 1024 * 1024;

/** Where few rows or none are left, those in freed space say what a table holds. */
function* withFreed(
  database: Database,
  samples: readonly SampledTable[]
): Generator<StoreEvent, SampledTable[] | null> {
  const { pageCount, pageSize } = database.pages;
  if (pageCount * pageSize > MOST_WORKED_OUT) return null;
  const wanted = (table: TableSchema): boolean => isThin(samples, table);
  const recovered = yield* run(recoverTables(database, { wanted, freed: true }));
  return recovered.some(({ freed }) => freed.length > 0) ? enriched(samples, recovered) : null;
}

function candidateOf(
  { files, path, modifiedAt }: StoreRequest,
  choices: Choice[],
  readFrom: number,
  readings: readonly OfferedReading[]
): CandidateFacts {
  const { size: bytes } = files.main;
  const [best] = choices;
  return {
    path,
    bytes,
    modifiedAt,
    profile: best?.profile.title ?? null,
    fit: best?.fit ?? 0,
    read: best !== undefined && best.fit >= readFrom,
    reasons: best?.reasons ?? [],
    asks: choices.some((choice) => 'question' in choice && choice.question !== null),
    ...(readings.length > 0 ? { readings: readings.map(factsOf) } : {})
  };
}

function factsOf(reading: OfferedReading): ReadingFacts {
  const { table, rows, more, fit, reasons, against, lines } = reading;
  return { table, rows, more, fit, reasons, against, lines };
}

/** By the live tables; when none fits, by those whose declarations were deleted too. */
function* chooseProfiles(
  database: Database,
  { pass }: StoreRequest
): Generator<StoreEvent, Choice[]> {
  const choose = (tables: TableSchema[]): Choice[] =>
    agreeingProfiles(database, tables, pass.profiles).filter(({ profile }) =>
      wantsProfile(pass.want, profile)
    );
  const live = choose(database.tables);
  if (live.length > 0 || pass.depth === 'indexed') return live;
  const dropped = yield* run(recoverTables(database, { wanted: isDropped, freed: true }));
  if (dropped.length === 0) return [];
  return choose([...database.tables, ...dropped.map((table) => table.schema)]);
}

function isDropped(table: { root: number }): boolean {
  return table.root === 0;
}

/** Rows of a table with messages that are read for a first look, and of others, which tell of them. */
const FIRST_MESSAGES = 1000;
const FIRST_OTHERS = 20_000;

/** The first live lines of a store, so that reading can begin while the rest is being searched. */
function* firstLook(
  request: StoreRequest,
  database: Database,
  readings: Reading[]
): Generator<StoreEvent> {
  const messages = new Set(
    readings.flatMap(({ profile }) => profile.messages.map(({ table }) => table.toLowerCase()))
  );
  const firstOnly = ({ name }: TableSchema): number =>
    messages.has(name.toLowerCase()) ? FIRST_MESSAGES : FIRST_OTHERS;
  const tables = yield* recover(database, readings, 'indexed', { mostHeld: Infinity, firstOnly });
  yield* found(request, readings, tables, [], null, false);
}

/** A look ahead is no progress of the work that follows. */
function* unmeasured(work: Generator<StoreEvent>): Generator<StoreEvent> {
  for (const event of work)
    yield event.type === 'step' ? { ...event, stage: 'rows', done: 0 } : event;
}

interface RecoverHow {
  firstOnly?: (table: TableSchema) => number;
  mostHeld?: number | undefined;
  space?: FreedSpace;
  crew?: Crew | null;
}

function* recover(
  database: Database,
  readings: Reading[],
  depth: Depth,
  { mostHeld, space, crew, firstOnly }: RecoverHow
): Generator<StoreEvent, RecoveredTable[]> {
  const names = new Set(readings.flatMap(({ profile }) => [...tablesOf(profile)]));
  const all = readings.some(({ profile }) => readsHashedNames(profile));
  database.damage.length = 0;
  return yield* run(
    recoverTables(database, {
      wanted: (table) => all || names.has(table.name.toLowerCase()),
      freed: depth !== 'indexed',
      ...(space ? { space } : {}),
      ...(crew ? { crew: crew.search } : {}),
      ...(mostHeld === undefined ? {} : { mostHeld }),
      ...(firstOnly ? { firstOnly } : {})
    })
  );
}

function* run<T>(
  work: Generator<{ stage: Stage; done: number; total: number }, T>
): Generator<StoreEvent, T> {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    yield { type: 'step', ...step.value };
  }
}

function* found(
  request: StoreRequest,
  readings: Reading[],
  tables: RecoveredTable[],
  limits: string[],
  crew: Crew | null,
  final: boolean
): Generator<StoreEvent> {
  for (const { id, profile, fit } of readings) {
    const set = new TableSet(tables);
    const zone = final ? yield* zoneSaid(profile, set, request) : [];
    const { source, path, pass } = request;
    const facts = { id, source, path, profile: profile.id, fit, limits: [...limits, ...zone] };
    const stream = new StoreStream(profile, set);
    yield* giveStore(facts, stream, stream.others(), { pass, final, crew });
  }
}

/** Says of times without a zone in which they were read. */
function* zoneSaid(
  profile: Choice['profile'],
  tables: TableSet,
  { path, pass }: StoreRequest
): Generator<StoreEvent, string[]> {
  if (!readsZoneless(profile, tables)) return [];
  const text = `Times of ${path} are written without a zone; they were read as times in ${pass.zone}.`;
  yield { type: 'note', note: { level: 'info', code: 'zone-assumed', text, path } };
  return [text];
}

/** Rows past which a database is too large to be read twice. */
const LARGE = 64 * 1024 * 1024;

function isLarge({ pages }: Database): boolean {
  return pages.pageCount * pages.pageSize > LARGE;
}

/** Gives the messages of a store in batches, and then what else it holds. */
export function* giveStore(
  facts: StoreFacts,
  stream: MessageStream,
  reading: StoreReading,
  { pass, final, crew }: { pass: GivenWith; final: boolean; crew: Crew | null }
): Generator<StoreEvent> {
  const { isWanted, isNarrow } = narrowing(pass.want);
  const work = assembleStore(facts, stream, narrowed(pass.want, reading), {
    region: pass.region,
    isWanted,
    frame: pass.frame ?? null,
    asRows: !isNarrow,
    crew: crew?.lines ?? null
  });
  let step = work.next();
  for (; !step.done; step = work.next()) {
    const { batches, json, written, done, total, until } = step.value;
    if (json.length > 0) yield { type: 'json', records: json, count: written };
    for (const batch of batches) yield { type: 'batch', batch };
    if (until) yield { type: 'wait', until };
    yield { type: 'step', stage: 'messages', done, total };
  }
  yield { type: 'found', findings: step.value, final };
}

type GivenWith = Pick<PassRequest, 'want' | 'region' | 'frame'>;

function repaired(path: string, text: string): Note {
  return { level: 'warning', code: 'damaged', text, path };
}

function truncation(database: Database, size: number): Note | null {
  const { pages, header } = database;
  const there = Math.floor(size / header.pageSize);
  if (there >= pages.statedCount || database.log || database.carved || size === 0) return null;
  return {
    level: 'warning',
    code: 'truncated',
    text: `${database.name} is cut short: it should hold ${pages.statedCount} pages of ${header.pageSize} bytes and holds ${there}. What is left was read.`,
    path: database.name
  };
}

const MOST_NOTES = 20;

function damageNotes(damage: Damage[]): Note[] {
  const distinct = new Map(damage.map((d) => [`${d.page}/${d.structure}/${d.reason}`, d]));
  const notes = [...distinct.values()].slice(0, MOST_NOTES).map((d): Note => ({
    level: 'warning',
    code: 'damaged',
    text: `${d.file}: page ${d.page}, offset ${d.offset}: ${d.reason}. The rest was read.`,
    path: d.file
  }));
  const more = distinct.size - notes.length;
  if (more > 0) {
    const text = `${more} more damaged places are not listed.`;
    notes.push({ level: 'warning', code: 'damaged', text, path: damage[0]!.file });
  }
  return notes;
}
