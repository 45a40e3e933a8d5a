import { STATES } from '../records';
import type { RowColumns, ThreadRange, ThreadSummary } from './model';

const DAY = 86_400_000;
/** Rows with a time that no calendar holds count as timeless. */
const MOST_DAYS = 100_000_000;

/** What a conversation's lines come to; rows that `isShown` refuses are left out. */
export function summaryOf(
  range: ThreadRange,
  { sentAt, state }: Pick<RowColumns, 'sentAt' | 'state'>,
  isShown: (row: number) => boolean = () => true
): ThreadSummary {
  const kinds = STATES.length;
  const timeless = new Uint32Array(kinds);
  const days: number[] = [];
  const counts: number[] = [];
  let [first, last] = [NaN, NaN];
  let count = 0;
  for (let row = range.start; row < range.start + range.count; row++) {
    if (!isShown(row)) continue;
    count++;
    const at = sentAt[row]!;
    const day = Math.floor(at / DAY);
    if (Number.isNaN(at) || Math.abs(day) > MOST_DAYS) {
      timeless[state[row]!]!++;
      continue;
    }
    if (Number.isNaN(first)) first = at;
    last = at;
    // Rows are in the order of time.
    if (days[days.length - 1] !== day) {
      days.push(day);
      for (let i = 0; i < kinds; i++) counts.push(0);
    }
    counts[counts.length - kinds + state[row]!]!++;
  }
  return {
    id: range.id,
    start: range.start,
    count,
    days: Int32Array.from(days),
    dayCounts: Uint32Array.from(counts),
    timeless,
    first,
    last
  };
}

/** Several summaries as one, under the id of the first. */
export function joined(parts: readonly ThreadSummary[]): ThreadSummary {
  if (parts.length === 1) return parts[0]!;
  const kinds = STATES.length;
  const byDay = new Map<number, Uint32Array>();
  const timeless = new Uint32Array(kinds);
  for (const { days, dayCounts, timeless: own } of parts) {
    for (let i = 0; i < kinds; i++) timeless[i]! += own[i]!;
    for (let at = 0; at < days.length; at++) {
      const known = byDay.get(days[at]!) ?? new Uint32Array(kinds);
      for (let i = 0; i < kinds; i++) known[i]! += dayCounts[at * kinds + i]!;
      byDay.set(days[at]!, known);
    }
  }
  const days = Int32Array.from(byDay.keys()).sort();
  const dayCounts = new Uint32Array(days.length * kinds);
  for (let at = 0; at < days.length; at++) dayCounts.set(byDay.get(days[at]!)!, at * kinds);
  return {
    ...parts[0]!,
    count: parts.reduce((sum, { count }) => sum + count, 0),
    days,
    dayCounts,
    timeless,
    first: extreme(parts, 'first', Math.min),
    last: extreme(parts, 'last', Math.max)
  };
}

function extreme(
  parts: readonly ThreadSummary[],
  name: 'first' | 'last',
  of: (a: number, b: number) => number
): number {
  const known = parts.map((part) => part[name]).filter((at) => !Number.isNaN(at));
  return known.length === 0 ? NaN : known.reduce((a, b) => of(a, b));
}

/** Lines of a summary by state, in the order of `STATES`. */
export function stateCounts({ dayCounts, timeless }: ThreadSummary): Uint32Array {
  const counts = Uint32Array.from(timeless);
  for (let i = 0; i < dayCounts.length; i++) counts[i % STATES.length]! += dayCounts[i]!;
  return counts;
}
