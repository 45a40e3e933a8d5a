import { STATES } from '../../records';
import type { RowColumns, ThreadRange, ThreadSummary } from './model';

const DAY = 86_400_000;
const KINDS = STATES.length;
/** Rows with a time that no calendar holds count as timeless. */
const MOST_DAYS = 100_000_000;

/** What a conversation's lines come to; rows that `isShown` refuses are left out. */
export function summaryOf(
  range: ThreadRange,
  { sentAt, state }: Pick<RowColumns, 'sentAt' | 'state'>,
  isShown: (row: number) => boolean = () => true
): ThreadSummary {
  const timeless = new Uint32Array(KINDS);
  const days = new DayCounts();
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
    days.add(day, state[row]!, 1);
  }
  return { id: range.id, start: range.start, count, ...days.columns(), timeless, first, last };
}

/** Lines by day and state; days come in their order. */
class DayCounts {
  private readonly days: number[] = [];
  private readonly states: number[] = [];
  private readonly counts: number[] = [];
  private day = NaN;
  private readonly own = new Uint32Array(KINDS);

  add(day: number, state: number, lines: number): void {
    if (day !== this.day) this.end();
    this.day = day;
    this.own[state]! += lines;
  }

  private end(): void {
    for (let state = 0; state < KINDS; state++) {
      if (this.own[state] === 0) continue;
      this.days.push(this.day);
      this.states.push(state);
      this.counts.push(this.own[state]!);
      this.own[state] = 0;
    }
  }

  columns(): Pick<ThreadSummary, 'days' | 'dayStates' | 'dayCounts'> {
    this.end();
    return {
      days: Int32Array.from(this.days),
      dayStates: Uint8Array.from(this.states),
      dayCounts: Uint32Array.from(this.counts)
    };
  }
}

/** Several summaries as one, under the id of the first. */
export function joined(parts: readonly ThreadSummary[]): ThreadSummary {
  if (parts.length === 1) return parts[0]!;
  const timeless = new Uint32Array(KINDS);
  const all: { day: number; state: number; lines: number }[] = [];
  for (const { days, dayStates, dayCounts, timeless: own } of parts) {
    for (let i = 0; i < KINDS; i++) timeless[i]! += own[i]!;
    for (let i = 0; i < days.length; i++)
      all.push({ day: days[i]!, state: dayStates[i]!, lines: dayCounts[i]! });
  }
  const days = new DayCounts();
  for (const { day, state, lines } of all.sort((a, b) => a.day - b.day))
    days.add(day, state, lines);
  return {
    ...parts[0]!,
    count: parts.reduce((sum, { count }) => sum + count, 0),
    ...days.columns(),
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
export function stateCounts({ dayStates, dayCounts, timeless }: ThreadSummary): Uint32Array {
  const counts = Uint32Array.from(timeless);
  for (let i = 0; i < dayCounts.length; i++) counts[dayStates[i]!]! += dayCounts[i]!;
  return counts;
}
