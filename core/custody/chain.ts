import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { toHex } from '../bytes';

/** One thing that was done in a case. */
export interface CustodyAct {
  /** ISO 8601, UTC. */
  at: string;
  /** What was done, in a word or two with dashes between. */
  what: string;
  detail: Record<string, unknown>;
}

/** An act in its place in the log, chained to the one before by a hash. */
export interface CustodyEntry extends CustodyAct {
  /** Counted from 1. */
  n: number;
  /** The hash of the entry before; 64 zeros for the first. */
  before: string;
  /** SHA-256 over the JSON text of n, at, what, detail and before, in that order. */
  hash: string;
}

const NOTHING_BEFORE = '0'.repeat(64);

/** The entry that an act becomes behind the last one. */
export function chained(act: CustodyAct, last: CustodyEntry | null): CustodyEntry {
  const n = (last?.n ?? 0) + 1;
  const before = last?.hash ?? NOTHING_BEFORE;
  const { at, what, detail } = act;
  return { n, at, what, detail, before, hash: hashOf({ n, at, what, detail, before }) };
}

function hashOf({ n, at, what, detail, before }: Omit<CustodyEntry, 'hash'>): string {
  return toHex(sha256(utf8ToBytes(JSON.stringify({ n, at, what, detail, before }))));
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
  let last: CustodyEntry | null = null;
  const lines = text.split('\n').filter((line) => line.trim() !== '');
  for (const [i, line] of lines.entries()) {
    const entry = parsed(line);
    const at = i + 1;
    if (!entry) return { line: at, expected: 'an entry of the log', found: line.slice(0, 80) };
    if (entry.n !== at) return { line: at, expected: `entry ${at}`, found: `entry ${entry.n}` };
    const before: string = last?.hash ?? NOTHING_BEFORE;
    if (entry.before !== before) return { line: at, expected: before, found: entry.before };
    const hash = hashOf(entry);
    if (entry.hash !== hash) return { line: at, expected: hash, found: entry.hash };
    last = entry;
  }
  return null;
}

function parsed(line: string): CustodyEntry | null {
  try {
    const value = JSON.parse(line) as Partial<CustodyEntry>;
    const isEntry =
      typeof value === 'object' &&
      typeof value.n === 'number' &&
      typeof value.before === 'string' &&
      typeof value.hash === 'string';
    return isEntry ? (value as CustodyEntry) : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}
