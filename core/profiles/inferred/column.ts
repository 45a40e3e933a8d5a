import type { SqlValue } from '../../sqlite';
import { COUNTING_CLOCKS, isPlausible, isPlausibleMoment, toMilliseconds } from '../clock';
import { ID_CLOCKS } from '../id-time';
import { writtenMilliseconds } from '../written-time';
import type { Clock } from '../profile';

/** What a sample of a column's values shows. */
export interface ColumnFacts {
  name: string;
  /** Values that are there, of those sampled. */
  filled: number;
  rows: number;
  numbers: number;
  texts: number;
  blobs: number;
  distinct: number;
  /** The most frequent values, as text, with how often they stand. */
  frequent: Map<string, number>;
  clock: TimeFacts | null;
  wording: Wording | null;
}

export interface TimeFacts {
  clock: Clock;
  /** Share of the values that fall into the age of messages. */
  share: number;
  /** Share of neighbouring rows whose times do not fall back. */
  rising: number;
}

export interface Wording {
  /** 0 to 1: how much the texts read like what people write. */
  score: number;
  /** Share of texts that are markup. */
  markup: number;
  /** Share of texts that look like the name of somebody or something. */
  named: number;
  /** Different texts once their numbers are left out, as a share of all: few where a program fills in a form. */
  forms: number;
}

const MOST_FREQUENT = 5000;
/** Moments of many rows are hardly ever the same; ids that look like times are. */
const LEAST_MOMENTS = 0.1;

/** Whether a column's values are times that differ from row to row. */
export function isMoment({ clock, distinct, filled }: ColumnFacts): boolean {
  return clock !== null && distinct > filled * LEAST_MOMENTS;
}

export function columnFacts(name: string, values: SqlValue[]): ColumnFacts {
  const filled = values.filter((v) => v !== null && v !== '');
  const frequent = new Map<string, number>();
  for (const value of filled) {
    if (value instanceof Uint8Array) continue;
    const key = String(value).slice(0, 200);
    if (frequent.size < MOST_FREQUENT || frequent.has(key))
      frequent.set(key, (frequent.get(key) ?? 0) + 1);
  }
  const count = (test: (value: SqlValue) => boolean): number => filled.filter(test).length;
  return {
    name,
    filled: filled.length,
    rows: values.length,
    numbers: count((v) => typeof v === 'number' || typeof v === 'bigint'),
    texts: count((v) => typeof v === 'string'),
    blobs: count((v) => v instanceof Uint8Array),
    distinct: frequent.size,
    frequent,
    clock: timeFacts(filled),
    wording: wordingOf(filled)
  };
}

const LEAST = 3;
const MOSTLY = 0.9;

/** The clock under which nearly all values are times of the age of messages; null when none is. */
function timeFacts(filled: SqlValue[]): TimeFacts | null {
  const values = withoutSentinels(
    filled.filter((value) => value !== 0 && value !== 0n && value !== '0')
  );
  if (values.length < LEAST) return null;
  const iso = values.filter((v) => typeof v === 'string' && isWritten(v)).length;
  if (iso >= values.length * MOSTLY) return facts('iso', values, iso / values.length);
  return countedFacts(values) ?? idFacts(values);
}

/** Rows of one number that is no time by any clock, from which it stands for none. */
const LEAST_SENTINEL = 2;
/** Share of a column that such numbers may fill. */
const MOST_SENTINELS = 0.4;

/** Without numbers that an app writes where it knows no time: minus one, the largest there is. */
function withoutSentinels(values: SqlValue[]): SqlValue[] {
  const counts = new Map<number, number>();
  for (const value of values) {
    const n = typeof value === 'string' ? null : numeric(value);
    if (n !== null) counts.set(n, (counts.get(n) ?? 0) + 1);
  }
  const isSentinel = ([n, count]: [number, number]): boolean =>
    count >= LEAST_SENTINEL && !COUNTING_CLOCKS.some((clock) => isPlausible(n, clock));
  const sentinels = new Set([...counts].filter(isSentinel).map(([n]) => n));
  if (sentinels.size === 0) return values;
  const others = values.filter((v) => typeof v === 'string' || !sentinels.has(Number(v)));
  return others.length >= values.length * (1 - MOST_SENTINELS) ? others : values;
}

function isWritten(text: string): boolean {
  const at = writtenMilliseconds(text);
  return at !== null && isPlausibleMoment(at);
}

function countedFacts(values: SqlValue[]): TimeFacts | null {
  const numbers = values.flatMap((v) => numeric(v) ?? []);
  if (numbers.length < values.length * MOSTLY) return null;
  // Small whole numbers are ids and counts, whatever a clock would make of them.
  let best: { clock: Clock; share: number; middle: number } | null = null;
  for (const clock of COUNTING_CLOCKS) {
    const share = numbers.filter((n) => isPlausible(n, clock)).length / values.length;
    if (share < MOSTLY) continue;
    const middle = toMilliseconds(numbers[numbers.length >> 1], clock) ?? 0;
    if (!best || preferred({ clock, middle }, best, values)) best = { clock, share, middle };
  }
  return best && facts(best.clock, values, best.share);
}

/** Ids that begin with the moment at which they were made, and were made in the order of the rows. */
function idFacts(values: SqlValue[]): TimeFacts | null {
  if (new Set(values.map(String)).size < values.length * MOSTLY) return null;
  for (const clock of ID_CLOCKS) {
    const fitting = values.filter((value) => {
      const at = toMilliseconds(value, clock);
      return at !== null && isPlausibleMoment(at);
    });
    if (fitting.length < values.length * MOSTLY) continue;
    const found = facts(clock, values, fitting.length / values.length);
    if (found.rising >= MOSTLY) return found;
  }
  return null;
}

function numeric(value: SqlValue): number | null {
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return Number(value);
  return typeof value === 'string' && /^\d{9,19}(\.\d+)?$/.test(value) ? Number(value) : null;
}

const SOON = Date.UTC(2030, 0, 1);

/**
 * Between two clocks that both make sense: ticks and nanoseconds are told
 * apart by what divides all values; otherwise the later moment counts, since
 * the earlier one lies before such clocks were in use.
 */
function preferred(
  a: { clock: Clock; middle: number },
  b: { clock: Clock; middle: number },
  values: SqlValue[]
): boolean {
  const pair = [a.clock, b.clock];
  if (pair.includes('ticks-1')) {
    const wholeMilliseconds = allDivide(values, 10_000n) && !allDivide(values, 1_000_000n);
    const wholeSeconds = allDivide(values, 10_000_000n) && !allDivide(values, 1_000_000_000n);
    const ticks = wholeMilliseconds || wholeSeconds;
    return ticks === (a.clock === 'ticks-1');
  }
  if (a.middle > SOON !== b.middle > SOON) return b.middle > SOON;
  return a.middle > b.middle;
}

function allDivide(values: SqlValue[], by: bigint): boolean {
  return values.every(
    (v) =>
      typeof v !== 'string' &&
      Number.isFinite(Number(v)) &&
      BigInt(typeof v === 'bigint' ? v : Math.trunc(Number(v))) % by === 0n
  );
}

function facts(clock: Clock, values: SqlValue[], share: number): TimeFacts {
  let rising = 0;
  let last = -Infinity;
  for (const value of values) {
    const at = toMilliseconds(value, clock) ?? 0;
    if (at >= last) rising++;
    last = at;
  }
  return { clock, share, rising: rising / values.length };
}

const CODE = /^[\w./:@+-]*$/;
const MARKUP = /^\s*<[\w!?]/;
const STRUCTURE = /^\s*[{[]/;
const PATH = /^(?:[\w-]+:\/\/|\/|~\/|[a-z]:\\|content:)|\/[\w-]+\.\w{2,4}$/i;
const IDENTIFIER =
  /^[0-9a-f-]{16,}$|^[A-Za-z0-9+/_=-]{20,}$|^[\w.+-]+@[\w.-]+(\/.*)?$|^\+?[\d\s()-]{7,}$/i;

/** How much texts read like what people write to each other: words with blanks between, seldom twice the same, no codes. */
function wordingOf(filled: SqlValue[]): Wording | null {
  const texts = filled.filter((v): v is string => typeof v === 'string');
  if (texts.length < LEAST || texts.length < filled.length * 0.8) return null;
  const share = (test: (text: string) => boolean): number =>
    texts.filter(test).length / texts.length;
  const spaced = share(
    (t) => /\S\s+\S/.test(t) || /[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af\u0e00-\u0e7f]{3}/.test(t)
  );
  const coded = share((t) => PATH.test(t) || IDENTIFIER.test(t) || STRUCTURE.test(t));
  const words = share((t) => /\p{L}{2}/u.test(t));
  const distinct = new Set(texts).size / texts.length;
  const timely = share((t) => writtenMilliseconds(t) !== null);
  const codeLike = share((t) => CODE.test(t) && !/^\p{Lu}?\p{Ll}+[.]?$/u.test(t));
  const score =
    0.5 * spaced +
    0.2 * Math.min(1, distinct * 1.4) +
    0.3 * words -
    coded -
    timely -
    0.3 * codeLike;
  return {
    score: Math.max(0, Math.min(1, score)),
    markup: share((t) => MARKUP.test(t)),
    named: share((t) => NAME.test(t)),
    forms: new Set(texts.map((t) => t.replace(/\d+/g, '#'))).size / texts.length
  };
}

/** One to five words that begin with capitals, or initials, and nothing that ends a sentence. */
const NAME =
  /^(?:\p{Lu}[\p{L}\p{M}'’.&-]*)(?:[ ,]+(?:\p{Lu}[\p{L}\p{M}'’.&-]*|&|and|of|van|von|de|la|der)){0,4}$/u;
