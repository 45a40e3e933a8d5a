import type { Gap, Message } from '../records';
import type { NumberedTable } from '../stores';

/** A message with what tells its place in its table. */
export interface PlacedMessage {
  message: Message;
  table: string;
  rowid: number | null;
}

/**
 * Row numbers are given one after the other where people write messages;
 * where most are missing they are something else, such as numbers of a server.
 */
const LEAST_DENSITY = 0.02;
const LONGEST_RUN = 1_000_000;

interface Run {
  /** First and last missing number. */
  from: number;
  to: number;
}

/**
 * Messages known to have existed and not found: numbers that a table skips
 * and its sequence counts. What was recovered closes a gap: by its number, or
 * where that is lost by its time.
 */
export function numberGaps(
  store: string,
  table: NumberedTable,
  placed: readonly PlacedMessage[]
): Gap[] {
  const own = placed.filter((p) => p.table === table.name && p.message.state !== 'earlier');
  const numbered = own
    .filter((p): p is PlacedMessage & { rowid: number } => p.rowid !== null)
    .sort((a, b) => a.rowid - b.rowid);
  const taken = new Set([...table.numbers, ...numbered.map(({ rowid }) => rowid)]);
  const runs = missingRuns(taken, table.last);
  const nameless = own
    .filter(({ rowid, message }) => rowid === null && message.sentAt !== null)
    .map(({ message }) => message.sentAt!)
    .sort((a, b) => a - b);
  return runs.flatMap((run) => gapOf(store, table.name, run, numbered, nameless) ?? []);
}

function missingRuns(taken: ReadonlySet<number>, last: number | null): Run[] {
  const numbers = [...taken].filter((n) => n > 0).sort((a, b) => a - b);
  const most = Math.max(last ?? 0, numbers.at(-1) ?? 0);
  // Where the table does not count, only what lies between two of its rows is known to have been there.
  let before = last === null ? (numbers[0] ?? 1) - 1 : 0;
  if (numbers.length < most * LEAST_DENSITY && last === null) return [];
  const runs: Run[] = [];
  for (const number of [...numbers, most + 1]) {
    if (number > before + 1) runs.push({ from: before + 1, to: number - 1 });
    before = Math.max(before, number);
  }
  return runs.filter(({ from, to }) => to - from < LONGEST_RUN);
}

function gapOf(
  store: string,
  table: string,
  { from, to }: Run,
  numbered: readonly { rowid: number; message: Message }[],
  nameless: number[]
): Gap | null {
  const next = firstFrom(numbered, to);
  const before = numbered[next]?.message ?? null;
  const after = numbered[next - 1]?.message ?? null;
  const times = [after?.sentAt ?? null, before?.sentAt ?? null];
  const known = times.filter((at) => at !== null).sort((a, b) => a - b);
  const bounds = after && before && known.length === 2 ? known : null;
  const count =
    to - from + 1 - (bounds ? take(nameless, bounds[0]!, bounds[1]!, to - from + 1) : 0);
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

/** Index of the first message whose number is past `number`. */
function firstFrom(numbered: readonly { rowid: number }[], number: number): number {
  let low = 0;
  let high = numbered.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (numbered[middle]!.rowid <= number) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Takes up to `most` moments that lie between two out of a sorted list; says how many. */
function take(moments: number[], from: number, to: number, most: number): number {
  const start = moments.findIndex((at) => at >= from);
  if (start < 0) return 0;
  let end = start;
  while (end < moments.length && moments[end]! <= to && end - start < most) end++;
  moments.splice(start, end - start);
  return end - start;
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
  messages: readonly Message[]
): Gap[] {
  const found = new Map<string, number>();
  for (const { thread, state } of messages) {
    if (state !== 'earlier') found.set(thread, (found.get(thread) ?? 0) + 1);
  }
  return [...counted].flatMap(([thread, stated]) => {
    const count = stated - (found.get(thread) ?? 0);
    const reason = `the conversation counts ${stated} messages, ${stated - count} were found`;
    const open = { store, thread, after: null, before: null, from: null, to: null };
    return count > 0 ? [{ ...open, count, reason }] : [];
  });
}
