import type { ChatLog, LogEntry, TextLine } from './entries';
import type { LogSide } from './flags';
import { dateAt, momentOf, timeAt, usualDigits } from './moment';

/**
 * Lines that begin with a short word for the kind of entry, a moment, and the
 * number of lines by which the entry goes on: `MR 20240603T09:00:20Z 002 text`.
 * An entry takes so many lines whatever they look like.
 */
const HEAD =
  /^([A-Za-z]{1,8})[ \t]+(\d{4}-?\d\d-?\d\d[T_ -]?\d{1,2}:?\d\d(?::?\d\d)?(?:[.,]\d{1,9})?)(Z|[+-]\d\d:?\d\d)?[ \t]+(\d{1,4})(?:[ \t](.*))?$/s;

/** Share of the lines of a file that must be entries or what they count. */
const MOSTLY = 0.9;
const LEAST = 3;

interface Head {
  kind: string;
  moment: string;
  zone: string | undefined;
  more: number;
  text: string;
}

function headOf(text: string): Head | null {
  const found = HEAD.exec(text);
  if (!found) return null;
  const [, kind = '', moment = '', zone, more, rest = ''] = found;
  return { kind: kind.toLowerCase(), moment, zone, more: Number(more), text: rest };
}

/** Reads such a log; null when the text is none. */
export function readCountedLog(lines: TextLine[], path: string, zone: string): ChatLog | null {
  const found: { head: Head; lines: TextLine[] }[] = [];
  let taken = 0;
  for (let i = 0; i < lines.length; i++) {
    const head = headOf(lines[i]!.text);
    if (!head) continue;
    const own = lines.slice(i, i + 1 + head.more);
    found.push({ head, lines: own });
    taken += own.length;
    i += own.length - 1;
    if (i > LOOKED_AT && taken < i * 0.5) return null;
  }
  const filled = lines.filter(({ text }) => text.trim() !== '').length;
  // Numbers that count nothing are part of the texts of another kind of log.
  const counts = found.some(({ head }) => head.more > 0);
  const isPadded = found.every(({ lines: [first] }) =>
    /[ \t]0\d{1,3}(?:[ \t]|$)/.test(first!.text)
  );
  if (found.length < LEAST || taken < filled * MOSTLY || !(counts || isPadded)) return null;
  const sides = sidesOf(found.map(({ head }) => head.kind));
  if (!sides) return null;
  return {
    path,
    entries: found.map(({ head, lines: own }) => entryOf(head, own, sides, zone)),
    title: null,
    zoneless: found.some(({ head }) => head.zone === undefined),
    isShort: false,
    order: null
  };
}

const LOOKED_AT = 200;

function entryOf(
  head: Head,
  lines: readonly TextLine[],
  sides: ReadonlyMap<string, LogSide>,
  zone: string
): LogEntry {
  const side = sides.get(head.kind) ?? null;
  const [first] = lines;
  const last = lines[lines.length - 1]!;
  const named = side === 'incoming' ? /^<([^<>]{1,64})>\s(.*)$/s.exec(head.text) : null;
  const text = named?.[2] ?? head.text;
  return {
    at: momentIn(head, zone),
    sender: named?.[1]?.trim() ?? null,
    side,
    text: [text, ...lines.slice(1).map((line) => line.text)].join('\n'),
    offset: first!.offset,
    length: last.offset + last.length - first!.offset
  };
}

function momentIn({ moment, zone }: Head, local: string): number | null {
  const usual = usualDigits(moment).replace(
    /^(\d{4})-?(\d\d)-?(\d\d)[T_ -]?(\d{1,2}):?(\d\d):?(\d\d)?/,
    (_, y, m, d, hour, minute, second = '00') => `${y}-${m}-${d} ${hour}:${minute}:${second}`
  );
  const dated = dateAt(usual);
  const timed = dated && timeAt(usual.slice(dated.end).trimStart());
  if (!dated || !timed) return null;
  if (zone === undefined) return momentOf(dated.date, timed.time, 'day-first', local);
  const at = momentOf(dated.date, timed.time, 'day-first', 'Etc/UTC');
  return at === null ? null : at - minutesOf(zone) * 60_000;
}

function minutesOf(zone: string): number {
  const found = /^([+-])(\d\d):?(\d\d)$/.exec(zone);
  if (!found) return 0;
  const minutes = Number(found[2]) * 60 + Number(found[3]);
  return found[1] === '-' ? -minutes : minutes;
}

/** Kinds whose last letters part what came in from what went out; of other kinds are lines of the program. */
const ENDS: [into: RegExp, out: RegExp][] = [
  [/r$/, /s$/],
  [/i$/, /o$/],
  [/in$/, /out$/],
  [/recv$|received$/, /sent$/]
];

function sidesOf(kinds: readonly string[]): Map<string, LogSide> | null {
  const counts = new Map<string, number>();
  for (const kind of kinds) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  const often = [...counts].sort((a, b) => b[1] - a[1]).slice(0, 2);
  for (const [into, out] of ENDS) {
    const incoming = often.filter(([kind]) => into.test(kind));
    const outgoing = often.filter(([kind]) => out.test(kind));
    if (incoming.length + outgoing.length !== often.length) continue;
    return new Map<string, LogSide>([
      ...incoming.map(([kind]): [string, LogSide] => [kind, 'incoming']),
      ...outgoing.map(([kind]): [string, LogSide] => [kind, 'outgoing'])
    ]);
  }
  return null;
}
