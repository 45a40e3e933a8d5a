import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { toHex } from '../host';

/** One thing that was done in a case. */
export interface CustodyAct {
  /** ISO 8601, UTC. */
  at: string;
  /** What was done, in a word or two with dashes between. */
  what: string;
  detail: Record<string, unknown>;
}

/** An act in its place in the log, chained to the one before by a hash. */
export interface CustodyEntry extends Omit<CustodyAct, 'detail'> {
  /** An internal entry in an extract: its hash alone stands in its place; `at` and `what` are empty. */
  kind?: 'internal';
  /** Counted from 1. */
  n: number;
  /** Null where it is withheld from an extract of the log. */
  detail: CustodyAct['detail'] | null;
  /** Chance digits that keep a detail that is withheld from being guessed by its checksum. */
  salt?: string;
  /** SHA-256 of salt and detail, in their place where they are withheld. */
  withheld?: string;
  /** The hash of the entry before; 64 zeros for the first. */
  before: string;
  /**
   * SHA-256 over the JSON text of n, at, what, detail and before, in that
   * order; for detail stands the SHA-256 over the JSON text of `[salt, detail]`.
   */
  hash: string;
}

const NOTHING_BEFORE = '0'.repeat(64);

/** The entry that an act becomes behind the last one. */
export function chained(act: CustodyAct, last: CustodyEntry | null, salt = ''): CustodyEntry {
  const { at, what, detail } = act;
  const entry = {
    n: (last?.n ?? 0) + 1,
    at,
    what,
    detail,
    ...(salt === '' ? {} : { salt }),
    before: last?.hash ?? NOTHING_BEFORE
  };
  return { ...entry, hash: hashOf(entry) };
}

/** An entry without its detail; the chain holds all the same. */
export function withheld({ salt, detail, ...entry }: CustodyEntry): CustodyEntry {
  const { n, at, what, before, hash } = entry;
  const sum = entry.withheld ?? detailHash({ salt, detail });
  return { n, at, what, detail: null, withheld: sum, before, hash };
}

/** What is work among those who prepare a case: notes, labels and what a client told are nobody else's. */
const INTERNAL: readonly string[] = ['note written', 'labels changed', 'intake changed'];

/** Whether an entry is no part of what is handed over. */
export function isInternal({ what, kind }: CustodyEntry): boolean {
  return kind === 'internal' || INTERNAL.includes(what);
}

/** The place of an entry in the chain, and nothing of what it tells. */
export function hashAlone({ n, before, hash }: CustodyEntry): CustodyEntry {
  return { n, at: '', what: '', kind: 'internal', detail: null, before, hash };
}

function hashOf(entry: Omit<CustodyEntry, 'hash'>): string {
  const { n, at, what, before } = entry;
  const detail = entry.detail === null ? (entry.withheld ?? '') : detailHash(entry);
  return hashOfJson({ n, at, what, detail, before });
}

/** The first packages were hashed over the detail itself. */
function firstHash({ n, at, what, detail, before }: CustodyEntry): string | null {
  return detail === null ? null : hashOfJson({ n, at, what, detail, before });
}

function detailHash({ salt, detail }: Pick<CustodyEntry, 'salt' | 'detail'>): string {
  return hashOfJson([salt ?? '', detail]);
}

function hashOfJson(value: unknown): string {
  return toHex(sha256(utf8ToBytes(JSON.stringify(value))));
}

/** Where a log does not hold. */
export interface BrokenLink {
  /** The line of the log, counted from 1. */
  line: number;
  expected: string;
  found: string;
}

/** The first place at which a log of one entry a line is broken; null where all of it holds. */
export function brokenLink(text: string): BrokenLink | null {
  const lines = text.split('\n').filter((line) => line.trim() !== '');
  let last: CustodyEntry | null = null;
  for (const [i, line] of lines.entries()) {
    const entry = parsed(line);
    if (!entry) return { line: i + 1, expected: 'an entry of the log', found: line.slice(0, 80) };
    const broken = brokenAt(entry, last, i + 1);
    if (broken) return broken;
    last = entry;
  }
  return null;
}

/** The entries of a log of one entry a line; lines that are none are left out. */
export function entriesIn(text: string): CustodyEntry[] {
  return text.split('\n').flatMap((line) => parsed(line) ?? []);
}

/** As {@link brokenLink}, of entries at hand. */
export function brokenEntry(entries: readonly CustodyEntry[]): BrokenLink | null {
  for (const [i, entry] of entries.entries()) {
    const broken = brokenAt(entry, entries[i - 1] ?? null, i + 1);
    if (broken) return broken;
  }
  return null;
}

function brokenAt(entry: CustodyEntry, last: CustodyEntry | null, line: number): BrokenLink | null {
  if (entry.n !== line) return { line, expected: `entry ${line}`, found: `entry ${entry.n}` };
  const before = last?.hash ?? NOTHING_BEFORE;
  if (entry.before !== before) return { line, expected: before, found: entry.before };
  // Nothing of it can be hashed again; a hash that was exchanged breaks the next entry, or the record of the last.
  if (entry.kind === 'internal') return null;
  const hash = hashOf(entry);
  const holds = entry.hash === hash || entry.hash === firstHash(entry);
  return holds ? null : { line, expected: hash, found: entry.hash };
}

function parsed(line: string): CustodyEntry | null {
  try {
    const value = JSON.parse(line) as Partial<CustodyEntry> | null;
    const isEntry =
      typeof value === 'object' &&
      value !== null &&
      typeof value.n === 'number' &&
      typeof value.before === 'string' &&
      typeof value.hash === 'string' &&
      typeof value.detail === 'object' &&
      (value.detail !== null || typeof value.withheld === 'string' || value.kind === 'internal');
    return isEntry ? (value as CustodyEntry) : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}
