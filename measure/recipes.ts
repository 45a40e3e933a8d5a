import type { Depth } from '../core/records';
import type { SentMessage } from '../core/tests/telephony';
import { carvedImage, damages } from './damages';
import type { LyingFiles } from './histories';
import type { DialectName } from './statements';

/** The statements of a history, to be put in an order. */
export interface Parts {
  schema: string;
  inserts: string;
  removes: string;
  edits: string;
  later: string;
}

export interface Recipe {
  name: string;
  pragmas?: string;
  secure?: 'ON' | 'OFF' | 'FAST';
  encoding?: 'utf8' | 'utf16le' | 'utf16be';
  dialect?: DialectName;
  count?: number;
  /** Messages that are deleted, of all. */
  remove: (list: SentMessage[], random: () => number) => SentMessage[];
  how?: 'one by one' | 'at once' | 'drop';
  /** Share of the others that are edited. */
  edit?: number;
  /** Messages written after the deletion, over the space that it left. */
  after?: number;
  /** Most messages are so long that they spill onto overflow pages. */
  long?: boolean;
  /** The order of things, where it is not the usual one. */
  tell?: (parts: Parts) => string;
  /** The last transaction was never committed. */
  undone?: boolean;
  damage?: (files: LyingFiles, random: () => number) => Record<string, Uint8Array>;
  depth?: Depth;
  /** Nothing says any more which pages were in use. */
  loose?: boolean;
}

const some =
  (share: number) =>
  (list: SentMessage[], random: () => number): SentMessage[] =>
    list.filter(() => random() < share);
const all = (list: SentMessage[]): SentMessage[] => list;
const threads = (list: SentMessage[]): SentMessage[] =>
  list.filter(({ address }) => /[1-3]$/.test(address));
const oldRange = (list: SentMessage[]): SentMessage[] =>
  list.slice(0, Math.floor(list.length * 0.6));

const size = (bytes: number): string => `PRAGMA page_size=${bytes};`;
const LE = "PRAGMA encoding='UTF-16le';";
const BE = "PRAGMA encoding='UTF-16be';";
const LOG = 'PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;';

/** All is written and moved into the file; deletions lie in the log alone. */
const deletedInLog = (p: Parts): string =>
  `${p.schema}${LOG}${p.inserts}PRAGMA wal_checkpoint(TRUNCATE);\n${p.removes}${p.edits}${p.later}\nSNAPSHOT\n`;
/** Written and deleted within the log. */
const allInLog = (p: Parts): string =>
  `${LOG}${p.schema}${p.inserts}${p.removes}${p.edits}${p.later}\nSNAPSHOT\n`;
/** The log began anew after the deletion, so that older frames lie behind newer ones. */
const logBegunAnew = (p: Parts): string =>
  `${LOG}${p.schema}${p.inserts}${p.removes}${p.edits}PRAGMA wal_checkpoint(FULL);\n${p.later}\nSNAPSHOT\n`;
/** Frames behind the last commit. */
const uncommittedLog = (p: Parts): string =>
  `${p.schema}${LOG}PRAGMA cache_size=8;${p.inserts}PRAGMA wal_checkpoint(TRUNCATE);\nBEGIN;\n${inside(p.removes)}\nSNAPSHOT\nROLLBACK;\n`;
const kept = (p: Parts): string =>
  `PRAGMA journal_mode=PERSIST;\n${p.schema}${p.inserts}${p.removes}${p.edits}\nSNAPSHOT\n`;
const hot = (p: Parts): string =>
  `PRAGMA journal_mode=DELETE;PRAGMA cache_size=8;\n${p.schema}${p.inserts}BEGIN;\n${inside(p.removes)}\nSNAPSHOT\nROLLBACK;\n`;

function inside(transaction: string): string {
  return transaction.replace('BEGIN;', '').replace('COMMIT;', '');
}

/** Rows older than two columns that were added later. */
const grown = (p: Parts): string =>
  `${p.schema}${p.inserts}ALTER TABLE sms ADD COLUMN seen INTEGER DEFAULT 0; ALTER TABLE sms ADD COLUMN creator TEXT;\n${p.removes}${p.later}`;
/** Another table grows over the pages that were freed. */
const overgrown = (p: Parts): string =>
  `${p.schema}${p.inserts}${p.removes}CREATE TABLE notes(id INTEGER PRIMARY KEY, title TEXT, body TEXT, made REAL);\nWITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i+1 FROM n WHERE i<900) INSERT INTO notes SELECT i, 'note '||i, printf('%.*c', 40+i%200, 'n'), i*1.5 FROM n;\n`;

export const RECIPES: Recipe[] = [
  { name: 'single deletes, 20 %', remove: some(0.2) },
  { name: 'whole threads', remove: threads },
  { name: 'everything, row by row', remove: all },
  { name: 'everything at once', remove: all, how: 'at once' },
  { name: 'a long old range', remove: oldRange },
  { name: 'single deletes, space reused', remove: some(0.2), after: 600 },
  { name: 'old range, space reused', remove: oldRange, after: 600 },
  { name: 'edited in place', remove: some(0.1), edit: 0.2 },
  { name: 'pages of 512 bytes', pragmas: size(512), remove: some(0.2) },
  { name: 'pages of 1024 bytes, threads', pragmas: size(1024), remove: threads },
  { name: 'pages of 65536 bytes', pragmas: size(65536), remove: some(0.2) },
  { name: 'pages of 65536 bytes, reused', pragmas: size(65536), remove: oldRange, after: 400 },
  { name: 'UTF-16, little endian', pragmas: LE, encoding: 'utf16le', remove: some(0.2) },
  { name: 'UTF-16, big endian, threads', pragmas: BE, encoding: 'utf16be', remove: threads },
  { name: 'auto-vacuum, full', pragmas: 'PRAGMA auto_vacuum=1;', remove: some(0.5) },
  { name: 'auto-vacuum, incremental', pragmas: 'PRAGMA auto_vacuum=2;', remove: oldRange },
  { name: 'auto-vacuum, reused', pragmas: 'PRAGMA auto_vacuum=2;', remove: oldRange, after: 500 },
  { name: 'no row numbers', dialect: 'no row numbers', remove: some(0.2) },
  {
    name: 'no row numbers, pages of 512',
    dialect: 'no row numbers',
    pragmas: size(512),
    remove: some(0.2)
  },
  { name: 'no row numbers, everything', dialect: 'no row numbers', remove: all },
  {
    name: 'no row numbers, UTF-16, hardly any left',
    dialect: 'no row numbers',
    pragmas: BE,
    encoding: 'utf16be',
    remove: some(0.98)
  },
  {
    name: 'log: file shrinks in it, secure',
    pragmas: 'PRAGMA auto_vacuum=1;',
    secure: 'ON',
    remove: some(0.8),
    tell: allInLog
  },
  { name: 'text index', dialect: 'text index', remove: some(0.2), after: 300 },
  { name: 'text index, secure FAST', dialect: 'text index', secure: 'FAST', remove: oldRange },
  { name: 'handle–chat, single deletes', dialect: 'handle–chat', remove: some(0.2) },
  { name: 'handle–chat, whole chats', dialect: 'handle–chat', remove: threads },
  { name: 'handle–chat, everything', dialect: 'handle–chat', remove: all },
  { name: 'handle–chat, reused', dialect: 'handle–chat', remove: oldRange, after: 500 },
  { name: 'unknown store, single deletes', dialect: 'unknown', remove: some(0.2) },
  { name: 'unknown store, reused', dialect: 'unknown', remove: oldRange, after: 300 },
  { name: 'unknown store, everything', dialect: 'unknown', remove: all },
  { name: 'unknown store, all at once', dialect: 'unknown', remove: all, how: 'at once' },
  { name: 'unknown store, dropped', dialect: 'unknown', remove: all, how: 'drop' },
  { name: 'unknown store, hardly any left', dialect: 'unknown', remove: some(0.98) },
  { name: 'long messages', long: true, count: 600, remove: some(0.3) },
  { name: 'long messages, reused', long: true, count: 600, remove: oldRange, after: 120 },
  {
    name: 'long messages, pages of 1024',
    long: true,
    count: 600,
    pragmas: size(1024),
    dialect: 'handle–chat',
    remove: threads,
    after: 40
  },
  { name: 'columns added later', remove: some(0.3), tell: grown },
  { name: 'pages taken by another table', remove: oldRange, tell: overgrown },
  { name: 'tables dropped', remove: all, how: 'drop' },
  { name: 'tables dropped, handle–chat', dialect: 'handle–chat', remove: all, how: 'drop' },
  { name: 'log: deletions in it', remove: some(0.3), tell: deletedInLog, edit: 0.05 },
  { name: 'log: deletions in it, secure', secure: 'ON', remove: threads, tell: deletedInLog },
  { name: 'log: all in it, secure', secure: 'ON', remove: some(0.3), tell: allInLog, edit: 0.05 },
  { name: 'log begun anew, secure', secure: 'ON', remove: threads, after: 40, tell: logBegunAnew },
  { name: 'log: never committed', remove: some(0.3), tell: uncommittedLog, undone: true },
  { name: 'journal kept, secure', secure: 'ON', remove: some(0.3), tell: kept },
  { name: 'journal kept, edits', remove: some(0.1), edit: 0.2, tell: kept },
  { name: 'journal hot', remove: some(0.3), tell: hot, undone: true },
  { name: 'secure delete', secure: 'ON', remove: some(0.2) },
  { name: 'header zeroed', remove: some(0.2), damage: damages.headerZeroed },
  { name: 'first page lost', remove: some(0.2), damage: damages.firstPageLost },
  {
    name: 'first page lost, handle–chat',
    dialect: 'handle–chat',
    remove: threads,
    damage: damages.firstPageLost
  },
  { name: 'cut at 60 %', remove: some(0.2), damage: damages.cut, loose: true },
  { name: 'holes of noise', remove: some(0.2), damage: damages.holes, loose: true },
  {
    name: 'holes, wrong page size',
    dialect: 'handle–chat',
    remove: threads,
    damage: damages.wrongSize
  },
  {
    name: 'pages alone',
    remove: some(0.2),
    damage: damages.pagesAlone,
    depth: 'whole',
    loose: true
  },
  { name: 'raw image', remove: some(0.2), damage: carvedImage, depth: 'whole' },
  {
    name: 'raw image, in pieces',
    dialect: 'handle–chat',
    remove: threads,
    damage: damages.scattered,
    depth: 'whole'
  },
  {
    name: 'raw image with a log',
    remove: some(0.2),
    edit: 0.05,
    tell: deletedInLog,
    damage: damages.withLog,
    depth: 'whole'
  },
  {
    name: 'memory, pages at any offset',
    remove: some(0.2),
    damage: damages.memory,
    depth: 'whole',
    loose: true
  },
  {
    name: 'memory, UTF-16, pages of 1024',
    encoding: 'utf16le',
    pragmas: `${size(1024)}${LE}`,
    remove: some(0.2),
    damage: damages.memory,
    depth: 'whole',
    loose: true
  },
  { name: 'log alone', remove: some(0.2), tell: allInLog, damage: damages.logAlone, depth: 'whole' }
];
