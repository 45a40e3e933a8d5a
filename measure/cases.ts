import type { Database as SqlJs } from 'sql.js';
import { makeDatabase } from '../core/tests/databases';
import {
  insertMessages,
  messages,
  seeded,
  TELEPHONY_SCHEMA,
  type SentMessage
} from '../core/tests/telephony';
import { HANDLE_CHAT_SCHEMA, insertChats } from '../core/tests/handle-chat';

/** One database of the corpus, with what was put into it and what was taken out. */
export interface RecoveryCase {
  name: string;
  bytes: Uint8Array;
  encoding: 'utf8' | 'utf16le' | 'utf16be';
  live: SentMessage[];
  deleted: SentMessage[];
}

interface Recipe {
  name: string;
  pragmas?: string;
  encoding?: RecoveryCase['encoding'];
  schema?: string;
  profile?: 'telephony' | 'handle-chat';
  count?: number;
  /** Messages that are deleted, of all. */
  remove: (list: SentMessage[], random: () => number) => SentMessage[];
  /** Messages written after the deletion, over the space that it left. */
  after?: number;
  /** Everything goes in one statement, as "delete all" does. */
  whole?: boolean;
}

const some =
  (share: number) =>
  (list: SentMessage[], random: () => number): SentMessage[] =>
    list.filter(() => random() < share);

const threads = (list: SentMessage[]): SentMessage[] =>
  list.filter(({ address }) => /[1-3]$/.test(address));

const oldRange = (list: SentMessage[]): SentMessage[] =>
  list.slice(0, Math.floor(list.length * 0.6));

const withoutRowid = TELEPHONY_SCHEMA.replace(
  'service_center TEXT);',
  'service_center TEXT) WITHOUT ROWID;'
);

const RECIPES: Recipe[] = [
  { name: 'single deletes, 20 %', remove: some(0.2) },
  { name: 'whole threads', remove: threads },
  { name: 'everything, row by row', remove: (list) => list },
  { name: 'everything at once', remove: (list) => list, whole: true },
  { name: 'a long old range', remove: oldRange },
  { name: 'single deletes, space reused', remove: some(0.2), after: 600 },
  { name: 'old range, space reused', remove: oldRange, after: 600 },
  { name: 'pages of 512 bytes', pragmas: 'PRAGMA page_size=512;', remove: some(0.2) },
  { name: 'pages of 1024 bytes, threads', pragmas: 'PRAGMA page_size=1024;', remove: threads },
  { name: 'pages of 65536 bytes', pragmas: 'PRAGMA page_size=65536;', remove: some(0.2) },
  {
    name: 'pages of 65536 bytes, reused',
    pragmas: 'PRAGMA page_size=65536;',
    remove: oldRange,
    after: 400
  },
  {
    name: 'UTF-16, little endian',
    pragmas: "PRAGMA encoding='UTF-16le';",
    encoding: 'utf16le',
    remove: some(0.2)
  },
  {
    name: 'UTF-16, big endian, threads',
    pragmas: "PRAGMA encoding='UTF-16be';",
    encoding: 'utf16be',
    remove: threads
  },
  { name: 'auto-vacuum, full', pragmas: 'PRAGMA auto_vacuum=1;', remove: some(0.5) },
  { name: 'auto-vacuum, incremental', pragmas: 'PRAGMA auto_vacuum=2;', remove: oldRange },
  { name: 'no row numbers', schema: withoutRowid, remove: some(0.2) },
  {
    name: 'no row numbers, pages of 512',
    schema: withoutRowid,
    pragmas: 'PRAGMA page_size=512;',
    remove: some(0.2)
  },
  { name: 'no row numbers, everything', schema: withoutRowid, remove: (list) => list },
  { name: 'handle–chat, single deletes', profile: 'handle-chat', remove: some(0.2) },
  { name: 'handle–chat, whole chats', profile: 'handle-chat', remove: threads },
  { name: 'handle–chat, everything', profile: 'handle-chat', remove: (list) => list },
  { name: 'handle–chat, reused', profile: 'handle-chat', remove: oldRange, after: 500 }
];

/** Makes the corpus one case at a time; the same seed gives the same bytes. */
export function* recoveryCases(seed: number): Generator<RecoveryCase> {
  for (const [i, recipe] of RECIPES.entries()) yield cook(recipe, seed + i * 1000);
}

function cook(recipe: Recipe, seed: number): RecoveryCase {
  const random = seeded(seed);
  const all = messages((recipe.count ?? 3000) + (recipe.after ?? 0), random);
  const first = all.slice(0, recipe.count ?? 3000);
  const deleted = recipe.remove(first, random);
  const gone = new Set(deleted);
  const chat = recipe.profile === 'handle-chat';
  const bytes = makeDatabase((db) => {
    db.run(recipe.schema ?? (chat ? HANDLE_CHAT_SCHEMA : TELEPHONY_SCHEMA));
    (chat ? insertChats : insertMessages)(db, first);
    remove(db, deleted, chat, recipe.whole ?? false);
    (chat ? insertChats : insertMessages)(db, all.slice(first.length));
  }, recipe.pragmas);
  return {
    name: recipe.name,
    bytes,
    encoding: recipe.encoding ?? 'utf8',
    live: all.filter((message) => !gone.has(message)),
    deleted
  };
}

function remove(db: SqlJs, deleted: SentMessage[], chat: boolean, whole: boolean): void {
  if (whole) return void db.run('DELETE FROM sms; DELETE FROM threads;');
  db.run('BEGIN');
  for (const { id } of deleted) {
    if (chat) {
      db.run(
        `DELETE FROM chat_message_join WHERE message_id=${id}; DELETE FROM message WHERE ROWID=${id}`
      );
    } else db.run(`DELETE FROM sms WHERE _id=${id}`);
  }
  db.run('COMMIT');
}
