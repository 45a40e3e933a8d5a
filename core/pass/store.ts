import {
  Database,
  freedSpace,
  recoverTables,
  type Damage,
  type DatabaseFiles,
  type RecoveredTable
} from '../sqlite';
import { bestProfile, readMessages, TableSet, tablesOf, type ReadingProfile } from '../stores';
import { emptyFindings, type Depth, type Findings, type Note } from '../records';
import { assembleStore, type CountryCode } from '../threads';
import type { Stage } from './types';

export interface StoreRequest {
  id: string;
  source: string;
  files: DatabaseFiles;
  depth: Depth;
  region: CountryCode | null;
  early: boolean;
}

export type StoreEvent =
  | { type: 'step'; stage: Stage; done: number; total: number }
  | { type: 'found'; findings: Findings; final: boolean }
  | { type: 'note'; note: Note };

/**
 * Examines one database: opens it, picks the reading profile, reads live rows
 * and what freed space holds, and gives records.
 * @throws SqliteFormatError when the file is no readable database.
 */
export function* examineStore(request: StoreRequest): Generator<StoreEvent> {
  const database = Database.open(request.files);
  const { name } = database;
  const cut = truncation(database, request.files.main.size);
  if (cut) yield { type: 'note', note: cut };
  const choice = yield* chooseProfile(database, request);
  if (!choice) {
    yield { type: 'note', note: noMessages(name, database.tables.length) };
    return;
  }
  if (request.early && request.depth !== 'indexed') {
    const tables = yield* recover(database, choice.profile, 'indexed');
    yield* found(request, choice, tables, [], false);
  }
  const tables = yield* recover(database, choice.profile, request.depth);
  yield* found(request, choice, tables, limitsOf(database, tables, request.depth), true);
  for (const note of damageNotes(database.damage)) yield { type: 'note', note };
}

interface Choice {
  profile: ReadingProfile;
  fit: number;
}

/** By the live tables; when none fits, by those whose declarations were deleted too. */
function* chooseProfile(
  database: Database,
  request: StoreRequest
): Generator<StoreEvent, Choice | null> {
  const live = bestProfile(database.tables);
  if (live || request.depth === 'indexed') return live;
  const dropped = yield* run(recoverTables(database, { wanted: isDropped, freed: true }));
  return bestProfile([...database.tables, ...dropped.map((table) => table.schema)]);
}

function isDropped(table: { root: number }): boolean {
  return table.root === 0;
}

function* recover(
  database: Database,
  profile: ReadingProfile,
  depth: Depth
): Generator<StoreEvent, RecoveredTable[]> {
  const names = tablesOf(profile);
  database.damage.length = 0;
  return yield* run(
    recoverTables(database, {
      wanted: (table) => names.has(table.name.toLowerCase()),
      freed: depth !== 'indexed'
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
  choice: Choice,
  tables: RecoveredTable[],
  limits: string[],
  final: boolean
): Generator<StoreEvent> {
  const reading = readMessages(choice.profile, new TableSet(tables));
  let step = reading.next();
  while (!step.done) {
    yield { type: 'step', stage: 'messages', ...step.value };
    step = reading.next();
  }
  const facts = {
    id: request.id,
    source: request.source,
    path: request.files.main.name,
    profile: choice.profile.id,
    fit: choice.fit,
    limits
  };
  const findings = { ...emptyFindings(), ...assembleStore(facts, step.value, request.region) };
  yield { type: 'found', findings, final };
}

function truncation(database: Database, size: number): Note | null {
  const { pages, header } = database;
  const there = Math.floor(size / header.pageSize);
  if (there >= pages.pageCount || database.log || size === 0) return null;
  return {
    level: 'warning',
    code: 'truncated',
    text: `${database.name} is cut: it should hold ${pages.pageCount} pages of ${header.pageSize} bytes, ${there} are there. What is left was read.`,
    path: database.name
  };
}

function noMessages(name: string, tables: number): Note {
  const count = tables === 1 ? '1 table' : `${tables} tables`;
  return {
    level: 'warning',
    code: 'no-messages',
    text: `${name} is a database with ${count}, but none of them fits a reading profile for messages.`,
    path: name
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

/** Why not more: what the file itself says about its freed space. */
function limitsOf(database: Database, tables: RecoveredTable[], depth: Depth): string[] {
  if (depth === 'indexed')
    return ['Only what the store itself lists was read: freed space was not searched.'];
  const limits: string[] = [];
  const freed = tables.reduce((sum, table) => sum + table.freed.length, 0);
  const space = freedSpace(database);
  if (space.bytes === 0) {
    limits.push(
      'The file has no freed space: it was compacted, or nothing was deleted since it was made.'
    );
  } else if (space.wiped === space.bytes) {
    limits.push(`All ${space.bytes} bytes of freed space are wiped: the app deletes securely.`);
  } else if (freed === 0) {
    limits.push(`${space.bytes} bytes of freed space were searched; they hold no message.`);
  } else {
    limits.push(
      `All ${space.bytes} bytes of freed space that the file has were searched; ${space.wiped} of them hold zeros only.`
    );
  }
  if (database.header.autoVacuum && space.freePages === 0) {
    limits.push('The file is kept compact (auto-vacuum): freed pages are cut off at once.');
  }
  return limits;
}
