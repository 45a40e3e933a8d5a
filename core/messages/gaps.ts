import type { Gap, Message } from '../records';
import type { NumberedTable } from '../profiles';
import { orderOf, type NumberOrder, type Run } from './order';
import type { PlacedMessage, PlacedMessages } from './placed';

/**
 * Row numbers are given one after the other where people write messages;
 * where most are missing they are something else, such as numbers of a server.
 */
const LEAST_DENSITY = 0.02;
const LONGEST_RUN = 1_000_000;

/**
 * Messages known to have existed and not found: numbers that a table skips
 * and its sequence counts. What was recovered closes a gap: by its number, or
 * where that is lost by its time.
 */
export function numberGaps(store: string, table: NumberedTable, placed: PlacedMessages): Gap[] {
  const own = placed.of(table.name);
  const runs = missingRuns(orderOf([table.numbers, own.rowids.values]), table.last);
  if (runs.length === 0) return [];
  const nameless = Moments.of(own.nameless);
  const found = orderOf([own.rowids.values]);
  const named = (rowid: number | null): PlacedMessage | null =>
    rowid === null ? null : own.named(rowid, store, table.name);
  return runs.flatMap((run) => {
    const [after, before] = [found.below(run.from), found.above(run.to)];
    return gapOf(store, table.name, run, named(after), named(before), nameless) ?? [];
  });
}

/** Runs of numbers that are not among those that are there. */
function missingRuns(numbers: NumberOrder, last: number | null): Run[] {
  const most = Math.max(last ?? 0, numbers.last);
  if (numbers.count < most * LEAST_DENSITY && last === null) return [];
  // Where the table does not count, only what lies between two of its rows is known to have been there.
  const before = last === null ? (numbers.first || 1) - 1 : 0;
  return numbers.missing(before, most).filter(({ from, to }) => to - from < LONGEST_RUN);
}

function gapOf(
  store: string,
  table: string,
  { from, to }: Run,
  after: PlacedMessage | null,
  before: PlacedMessage | null,
  nameless: Moments
): Gap | null {
  const times = [after?.sentAt ?? null, before?.sentAt ?? null];
  const known = times.filter((at) => at !== null).sort((a, b) => a - b);
  const bounds = after && before && known.length === 2 ? known : null;
  const all = to - from + 1;
  const count = all - (bounds ? nameless.take(bounds[0]!, bounds[1]!, all) : 0);
  if (count <= 0) return null;
  const same = after !== null && before !== null && after.thread === before.thread;
  const numbers = from === to ? `row number ${from}` : `row numbers ${from} to ${to}`;
  return {
    store,
    thread: same ? after.thread : null,
    count,
    after: after?.id ?? null,
    before: before?.id ?? null,
    from: bounds ? bounds[0]! : times[0]!,
    to: bounds ? bounds[1]! : times[1]!,
    reason: `${numbers} of table ${table} ${from === to ? 'is' : 'are'} missing`
  };
}

/** Moments in order, each to be taken once. */
class Moments {
  private constructor(
    private readonly sorted: Float64Array,
    private readonly used: Uint8Array
  ) {}

  static of(moments: readonly number[]): Moments {
    return new Moments(Float64Array.from(moments).sort(), new Uint8Array(moments.length));
  }

  /** Takes up to `most` moments that lie between two, both included; says how many. */
  take(from: number, to: number, most: number): number {
    const { sorted, used } = this;
    let low = 0;
    let high = sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle]! < from) low = middle + 1;
      else high = middle;
    }
    let taken = 0;
    for (let i = low; i < sorted.length && sorted[i]! <= to && taken < most; i++) {
      if (used[i]) continue;
      used[i] = 1;
      taken++;
    }
    return taken;
  }
}

/** A message that is answered but is not there. */
export function answerGap(answer: Message, named: string): Gap {
  return {
    store: answer.store,
    thread: answer.thread,
    count: 1,
    after: null,
    before: answer.id,
    from: null,
    to: answer.sentAt,
    reason: `a line answers message ${named}, which is missing`
  };
}

/** Conversations that count more messages than were found in them. */
export function counterGaps(
  store: string,
  counted: ReadonlyMap<string, number>,
  found: ReadonlyMap<string, number>
): Gap[] {
  return [...counted].flatMap(([thread, stated]) => {
    const count = stated - (found.get(thread) ?? 0);
    const reason = `the conversation counts ${stated} messages, ${stated - count} were found`;
    const open = { store, thread, after: null, before: null, from: null, to: null };
    return count > 0 ? [{ ...open, count, reason }] : [];
  });
}
