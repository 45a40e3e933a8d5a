import {
  openDatabase,
  type Database,
  recoverTables,
  type Damage,
  type DatabaseFiles,
  type OpenedDatabase,
  type RecoveredTable,
  type TableSchema
} from '../sqlite';
import {
  fittingProfiles,
  OFFER_FROM,
  READ_FROM,
  readsHashedNames,
  isStreamable,
  readStore,
  readStreamed,
  TableSet,
  tablesOf,
  workOutDatabase,
  type Choice
} from '../stores';
import {
  emptyFindings,
  type CandidateFacts,
  type Depth,
  type Findings,
  type Message,
  type Note
} from '../records';
import { assembleStore, assembleStreamed } from '../threads';
import { limitsOf } from './limits';
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
  modifiedAt: number | null;
  /** Gives the next store of the source its id. */
  nextId: () => string;
  pass: Pick<PassRequest, 'depth' | 'region' | 'early' | 'want' | 'profiles' | 'mostHeld'>;
}

export type StoreEvent =
  | { type: 'step'; stage: Stage; done: number; total: number }
  | { type: 'lines'; messages: Message[] }
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
export function* examineStore(request: StoreRequest): Generator<StoreEvent> {
  const { database, told } = request.opened ?? openDatabase(request.files, request.known);
  request.known.push(...database.tables);
  for (const text of told) yield { type: 'note', note: repaired(database.name, text) };
  const { depth, early } = request.pass;
  const cut = truncation(database, request.files.main.size);
  if (cut) yield { type: 'note', note: cut };
  let choices = yield* chooseProfiles(database, request);
  if (!choices.some(({ profile }) => profile.messages.length > 0)) {
    choices = [...choices, ...(yield* workedOut(database, request))];
  }
  const readFrom = database.guessed ? READ_GUESSED_FROM : READ_FROM;
  yield { type: 'candidate', candidate: candidateOf(request, choices, readFrom) };
  choices = choices.filter(({ fit }) => fit >= readFrom);
  const readings = choices.map((choice) => ({ ...choice, id: request.nextId() }));
  if (readings.length === 0) return;
  const streams = readings.every(({ profile }) => isStreamable(profile));
  // What comes as a stream is too large to be read twice.
  if (early && depth !== 'indexed' && !isLarge(database)) {
    const tables = yield* recover(database, readings, 'indexed', false);
    yield* found(request, readings, tables, [], false);
  }
  const tables = yield* recover(database, readings, depth, streams, request.pass.mostHeld);
  yield* found(request, readings, tables, limitsOf(database, tables, depth), true);
  for (const note of damageNotes(database.damage)) yield { type: 'note', note };
}

/** Where the declarations are lost no name can speak for a mapping; what is read says that it was worked out. */
const READ_GUESSED_FROM = 40;

/** What the data themselves show, where no profile is known. */
function* workedOut(database: Database, { pass }: StoreRequest): Generator<StoreEvent, Choice[]> {
  if (!pass.want.kinds.has('messages')) return [];
  const work = workOutDatabase(database);
  let tables = 0;
  let step = work.next();
  for (; !step.done; step = work.next()) {
    yield { type: 'step', stage: 'rows', done: tables++, total: tables + 1 };
  }
  return step.value && step.value.fit >= OFFER_FROM ? [step.value] : [];
}

function candidateOf(
  { files, path, modifiedAt }: StoreRequest,
  choices: Choice[],
  readFrom: number
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
    reasons: best?.reasons ?? []
  };
}

/** By the live tables; when none fits, by those whose declarations were deleted too. */
function* chooseProfiles(
  database: Database,
  { pass }: StoreRequest
): Generator<StoreEvent, Choice[]> {
  const choose = (tables: TableSchema[]): Choice[] =>
    fittingProfiles(tables, pass.profiles).filter(({ profile }) =>
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

function* recover(
  database: Database,
  readings: Reading[],
  depth: Depth,
  streams: boolean,
  mostHeld?: number
): Generator<StoreEvent, RecoveredTable[]> {
  const names = new Set(readings.flatMap(({ profile }) => [...tablesOf(profile)]));
  const all = readings.some(({ profile }) => readsHashedNames(profile));
  database.damage.length = 0;
  return yield* run(
    recoverTables(database, {
      wanted: (table) => all || names.has(table.name.toLowerCase()),
      freed: depth !== 'indexed',
      ...(streams ? { mostHeld } : { mostHeld: Infinity })
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
  final: boolean
): Generator<StoreEvent> {
  for (const { id, profile, fit } of readings) {
    const set = new TableSet(tables);
    if (readsLarge(profile, set)) {
      yield* streamed(request, { id, profile, fit }, set, limits);
      continue;
    }
    const read = yield* readAll(readStore(profile, set));
    const { source, pass, path } = request;
    const facts = { id, source, path, profile: profile.id, fit, limits };
    const reading = narrowed(pass.want, read);
    const findings = { ...emptyFindings(), ...assembleStore(facts, reading, pass.region) };
    yield { type: 'found', findings, final };
  }
}

/** Rows past which a database is too large to be read twice. */
const LARGE = 64 * 1024 * 1024;

function isLarge({ pages }: Database): boolean {
  return pages.pageCount * pages.pageSize > LARGE;
}

function readsLarge(profile: Choice['profile'], tables: TableSet): boolean {
  return profile.messages.some(({ table }) => tables.get(table)?.isLarge ?? false);
}

/** Gives the messages of a large store in batches, and then what else it holds. */
function* streamed(
  { source, pass, path }: StoreRequest,
  { id, profile, fit }: Pick<Reading, 'id' | 'profile' | 'fit'>,
  tables: TableSet,
  limits: string[]
): Generator<StoreEvent> {
  const reading = yield* readAll(readStreamed(profile, tables));
  const facts = { id, source, path, profile: profile.id, fit, limits };
  const held = narrowed(pass.want, reading.held);
  const { isWanted } = narrowing(pass.want);
  const work = assembleStreamed(facts, { ...reading, held }, pass.region, isWanted);
  let step = work.next();
  for (; !step.done; step = work.next()) {
    const { messages, done, total } = step.value;
    yield { type: 'lines', messages };
    yield { type: 'step', stage: 'messages', done, total };
  }
  yield { type: 'found', findings: step.value, final: true };
}

function* readAll<T>(
  work: Generator<{ done: number; total: number }, T>
): Generator<StoreEvent, T> {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    yield { type: 'step', stage: 'messages', ...step.value };
  }
}

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
    text: `${database.name} is cut: it should hold ${pages.statedCount} pages of ${header.pageSize} bytes, ${there} are there. What is left was read.`,
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
