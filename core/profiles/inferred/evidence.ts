import type { SqlValue } from '../../sqlite';
import type { Field } from './fields';

/** Which of two sides of a store's rows the owner wrote, as far as anything shows it. */
export interface Polarity {
  /** Positive where the first side is the owner's, negative where the second is. */
  score: number;
  reasons: string[];
}

/** From here on the sides are told apart; below it the direction stays unknown. */
export const ENOUGH = 3;

/** Columns that only what was sent fills: the answer of the network or of the other party. */
const RECEIPT = /(deliver|receipt|(^|_)ack|confirm)/i;
/** Columns that only what came in fills. */
const ARRIVAL = /(received|recv_|rcvd|arriv|(^|_)recv(_|$))/i;
const SEEN = /((^|_|is)(read|seen|viewed|opened)(_|$)|read_?status|seen_?flag)/i;
const UNSEEN = /(unread|unseen|is_?new|(^|_)new(_|$)|pending_?read|unopened|to_?notify)/i;
const PROGRESS = /(status|state|progress|sending|retry|retries|error|fail|attempt)/i;

function words(name: string): string {
  return name
    .replace(/^Z(?=[A-Z])/, '')
    .replace(/([a-z\d])([A-Z])/g, '$1_$2')
    .toLowerCase();
}

type Side = (value: SqlValue) => boolean;

/** Rows of one side. */
interface Half {
  rows: number[];
}

/** Shares beyond which a side has something, and below which it has not. */
const HAS = 0.15;
const HAS_NOT = 0.01;
/** A side with fewer rows shows nothing. */
const LEAST_SIDE = 5;

/**
 * Weighs what the columns show of two sides of the rows, each given as the
 * numbers of its rows: who writes on each side, which side is delivered,
 * which can be unread, which makes progress.
 */
export function polarityOf(
  first: readonly number[],
  second: readonly number[],
  fields: readonly Field[],
  classifier: Field | null
): Polarity {
  const polarity: Polarity = { score: 0, reasons: [] };
  if (first.length < LEAST_SIDE || second.length < LEAST_SIDE) return polarity;
  const sides: [Half, Half] = [{ rows: [...first] }, { rows: [...second] }];
  const add = (toFirst: boolean, weight: number, reason: string): void => {
    polarity.score += toFirst ? weight : -weight;
    polarity.reasons.push(reason);
  };
  for (const field of fields) {
    if (field === classifier || field.hops > 1) continue;
    const name = words(field.name);
    if (UNSEEN.test(name)) weighSeen(field, sides, isSet, add);
    else if (SEEN.test(name) && !field.facts.clock) weighSeen(field, sides, isNotSet, add);
    else if (RECEIPT.test(name)) weighFilled(field, sides, true, add);
    else if (ARRIVAL.test(name)) weighFilled(field, sides, false, add);
    else if (PROGRESS.test(name)) weighProgress(field, sides, add);
  }
  return polarity;
}

const isSet: Side = (value) => value !== null && value !== 0 && value !== '' && value !== '0';
const isNotSet: Side = (value) => value === 0 || value === '0';

function share({ rows }: Half, { values }: Field, test: Side): number {
  let count = 0;
  for (const row of rows) if (test(values[row] ?? null)) count++;
  return count / rows.length;
}

type Add = (toFirst: boolean, weight: number, reason: string) => void;

/** Only what came in waits to be read; the owner's own counts as read. */
function weighSeen(field: Field, [a, b]: [Half, Half], isWaiting: Side, add: Add): void {
  if (field.facts.numbers < field.facts.filled) return;
  const [first, second] = [share(a, field, isWaiting), share(b, field, isWaiting)];
  const reason = `only what came in can be unread, and column ${field.name} says so of one side alone`;
  if (first > 0.005 && count(a, first) >= 2 && second === 0 && first < 0.95) add(false, 4, reason);
  else if (second > 0.005 && count(b, second) >= 2 && first === 0 && second < 0.95)
    add(true, 4, reason);
}

function count({ rows }: Half, part: number): number {
  return Math.round(part * rows.length);
}

function weighFilled(field: Field, [a, b]: [Half, Half], bySent: boolean, add: Add): void {
  const [first, second] = [share(a, field, isSet), share(b, field, isSet)];
  const what = bySent
    ? 'is filled on the side that was sent'
    : 'is filled on the side that came in';
  if (first >= HAS && second <= HAS_NOT) add(bySent, 4, `column ${field.name} ${what}`);
  else if (second >= HAS && first <= HAS_NOT) add(!bySent, 4, `column ${field.name} ${what}`);
}

/** What is sent goes through several states; what came in stays in one. */
function weighProgress(field: Field, [a, b]: [Half, Half], add: Add): void {
  if (field.facts.distinct < 2 || field.facts.distinct > 12) return;
  const kinds = ({ rows }: Half): number =>
    new Set(rows.map((row) => String(field.values[row]))).size;
  const [first, second] = [kinds(a), kinds(b)];
  const reason = `column ${field.name} goes through states on one side alone, as what is sent does`;
  if (first >= 2 && second === 1) add(true, 2, reason);
  else if (second >= 2 && first === 1) add(false, 2, reason);
}

/**
 * Who writes: on the owner's side one name or none in all conversations, on
 * the other side different ones.
 */
export function weighWriters(
  first: readonly number[],
  second: readonly number[],
  sender: Field,
  room: Field | null
): Polarity {
  const writers = (rows: readonly number[]): Set<string> =>
    new Set(
      rows.flatMap((row) =>
        sender.values[row] === null || sender.values[row] === '' ? [] : [String(sender.values[row])]
      )
    );
  const [a, b] = [writers(first), writers(second)];
  // One who writes in a single conversation may be the other party of it.
  const alone = a.size <= 1 ? first : second;
  const rooms = new Set(alone.map((row) => String(room?.values[row] ?? '')));
  const isSeveral = room === null ? true : rooms.size >= 2;
  const shared = [...a].filter((writer) => b.has(writer)).length;
  // Names that stand on both sides are those of the other party, whoever wrote.
  if (shared > 0 || !isSeveral) return { score: 0, reasons: [] };
  if (a.size <= 1 && b.size >= 2)
    return {
      score: 6,
      reasons: [
        `column ${sender.name} names one writer on the owner’s side and others on the other`
      ]
    };
  if (b.size <= 1 && a.size >= 2)
    return {
      score: -6,
      reasons: [
        `column ${sender.name} names one writer on the owner’s side and others on the other`
      ]
    };
  return { score: 0, reasons: [] };
}

/** Columns in which the members of a group differ, whatever they are called. */
export function weighGroups(
  first: readonly number[],
  second: readonly number[],
  fields: readonly Field[],
  room: Field
): Polarity {
  const polarity: Polarity = { score: 0, reasons: [] };
  for (const field of fields) {
    const { texts, filled, distinct, clock, rows } = field.facts;
    if (field === room || field.hops > 0 || clock || texts < filled || distinct < 3) continue;
    if (distinct > rows * 0.5) continue;
    const sign = groupSign(first, second, field, room);
    if (sign === 0) continue;
    const reason = `in groups column ${field.name} names one writer on the owner’s side and several on the other`;
    return { score: sign * 5, reasons: [reason] };
  }
  return polarity;
}

function groupSign(
  first: readonly number[],
  second: readonly number[],
  field: Field,
  room: Field
): number {
  const groups = new Map<string, [Set<string>, Set<string>]>();
  for (const [side, rows] of [first, second].entries())
    for (const row of rows) {
      const key = String(room.values[row]);
      const sets = groups.get(key) ?? [new Set<string>(), new Set<string>()];
      sets[side]!.add(String(field.values[row]));
      groups.set(key, sets);
    }
  const large = [...groups.values()].filter(
    ([a, b]) => a.size + b.size >= 3 && a.size > 0 && b.size > 0
  );
  if (large.length === 0) return 0;
  if (large.every(([a, b]) => a.size === 1 && b.size >= 2 && !b.has([...a][0]!))) return 1;
  return large.every(([a, b]) => b.size === 1 && a.size >= 2 && !a.has([...b][0]!)) ? -1 : 0;
}
