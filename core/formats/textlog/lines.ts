import type { ChatLog, LogEntry, TextLine } from './entries';
import { flagAt, sidesOf, type Flagged, type LogSide } from './flags';
import {
  ctimeWithin,
  dateAt,
  dateWithin,
  momentOf,
  orderOf,
  timeAt,
  usualDigits,
  type WrittenDate,
  type WrittenTime
} from './moment';

/** The head of a line: when, and where the rest begins. */
interface Head {
  /** Null where only the time of day stands; the day is that of a heading. */
  date: WrittenDate | null;
  time: WrittenTime;
  /** Milliseconds since 1970, where the line counts them. */
  counted: number | null;
  rest: string;
}

interface Draft {
  head: Head;
  sender: string | null;
  text: string;
  /** What the line says if it begins with a mark of direction. */
  flagged: (Flagged & { sender: string | null; text: string }) | null;
  side: LogSide | null;
  /** Lines behind the first, which end with the next entry; blank ones at the end are none. */
  more: TextLine[];
  offset: number;
  end: number;
}

/** Characters in which a line's date, time and writer stand. */
const LONGEST_HEAD = 400;

const MARKS = /^[\u200e\u200f\u202a-\u202e\ufeff\s]+/;

/** Share of the lines of a file, and number of them, that must begin with a time for it to be a log. */
const LEAST_SHARE = 0.15;
const LEAST_LINES = 3;

/**
 * Reads a log of one entry a line: an export (date, time, sender, text) or a
 * chat client's own (day headings, times of day, names in brackets). Null
 * when the text is no such log.
 */
export function readLineLog(lines: TextLine[], path: string, zone: string): ChatLog | null {
  const reader = new LineReader(path);
  for (const line of lines) reader.take(line);
  return reader.finish(lines.filter(({ text }) => text.trim() !== '').length, zone);
}

class LineReader {
  private readonly drafts: Draft[] = [];
  private readonly dates: WrittenDate[] = [];
  private day: WrittenDate | null;
  private lastSeconds = -1;
  private halfDays = false;
  private title: string | null = null;
  /** A heading stands above, and no entry yet below it. */
  private isHeaded = false;
  /** Whether entries carry their own date; headings are then part of the text. */
  private dated = 0;

  constructor(private readonly path: string) {
    this.day = dateOfPath(path);
  }

  take(line: TextLine): void {
    const bare = line.text.replace(MARKS, '');
    const start = bare.slice(0, LONGEST_HEAD);
    const head = headOf(usualDigits(start), bare);
    if (head && (head.counted !== null || head.date || this.day))
      return this.entry(line, head, bare);
    if (this.heading(bare)) {
      this.isHeaded = true;
      return;
    }
    // What stands under a heading is none of the entry before it.
    if (this.isHeaded && this.dated === 0) {
      this.title ??= titleOf(bare);
      return;
    }
    const last = this.drafts[this.drafts.length - 1];
    if (!last) {
      this.title ??= titleOf(bare);
      return;
    }
    last.more.push(line);
  }

  private entry(line: TextLine, head: Head, bare: string): void {
    this.isHeaded = false;
    if (/[ap]\.?\s?m\b/i.test(bare.slice(0, 40))) this.halfDays = true;
    if (head.counted !== null) this.dated++;
    else if (head.date) {
      this.dated++;
      this.dates.push(head.date);
    } else this.rollOver(head.time);
    const { sender, text } = speakerOf(head.rest);
    const flagged = flagAt(head.rest);
    const date = head.date ?? this.day;
    this.drafts.push({
      head: { ...head, date },
      sender,
      text,
      flagged: flagged && { ...flagged, ...speakerOf(flagged.rest) },
      side: null,
      more: [],
      offset: line.offset,
      end: line.offset + line.length
    });
  }

  /** A time of day that falls back by half a day or more begins the next day. */
  private rollOver({ hour, minute, second }: WrittenTime): void {
    const seconds = hour * 3600 + minute * 60 + second;
    if (this.lastSeconds - seconds > 43_200) this.day = nextDay(this.day!);
    this.lastSeconds = seconds;
  }

  /** A line that tells the day of those that follow. */
  private heading(text: string): boolean {
    if (this.dated > 2 || text.length > 160) return false;
    const usual = usualDigits(text);
    const date = ctimeWithin(usual)?.date ?? dateWithin(usual)?.date ?? shortCtime(usual);
    if (!date) return false;
    const isLabelled = text.length < 64 && /^[\p{L} ]{1,24}:/u.test(text);
    const isShort = text.length < 40 || isLabelled;
    if (!(isShort || /^\W*$|^[-=*#]/.test(text) || this.drafts.length === 0)) return false;
    this.day = date;
    this.lastSeconds = -1;
    if (date.kind === 'open') this.dates.push(date);
    this.title ??= titleOf(text);
    return true;
  }

  finish(filled: number, zone: string): ChatLog | null {
    const { drafts } = this;
    if (drafts.length < 1 || drafts.length < filled * LEAST_SHARE) return null;
    const named = withoutChanceSpeakers(withSides(drafts)).map(withMore);
    const speaking = named.filter(({ sender, side }) => sender !== null || side !== null);
    if (speaking.length < drafts.length / 2) return null;
    const order = orderOf(this.dates, this.halfDays);
    const open = this.dates.some(({ kind }) => kind === 'open');
    const entries = named.map((draft): LogEntry => ({
      at: draft.head.counted ?? momentOf(draft.head.date!, draft.head.time, order, zone),
      sender: draft.sender,
      side: draft.side,
      text: draft.text,
      offset: draft.offset,
      length: draft.end - draft.offset
    }));
    return {
      path: this.path,
      entries,
      title: this.title,
      zoneless: drafts.some(({ head }) => head.counted === null),
      isShort: drafts.length < LEAST_LINES,
      order: open
        ? order === 'day-first'
          ? 'the day stands first'
          : 'the month stands first'
        : null
    };
  }
}

/** Takes the marks of direction for what they are, where nearly all entries carry one. */
function withSides(drafts: Draft[]): Draft[] {
  const sides = sidesOf(drafts.map(({ flagged }) => flagged?.mark ?? null));
  if (!sides) return drafts;
  return drafts.map((draft) => {
    const { flagged } = draft;
    const side = flagged ? sides.get(flagged.mark) : undefined;
    if (!flagged || side === undefined) return draft;
    return { ...draft, side, sender: flagged.sender, text: flagged.text };
  });
}

/** The entry with the lines that go on with it. */
function withMore(draft: Draft): Draft {
  const { more } = draft;
  let count = more.length;
  while (count > 0 && more[count - 1]!.text.trim() === '') count--;
  if (count === 0) return draft;
  const text = [draft.text, ...more.slice(0, count).map((line) => line.text)].join('\n');
  const last = more[count - 1]!;
  return { ...draft, text, end: last.offset + last.length };
}

/** Seconds or milliseconds since 1970 at the beginning of a line, in this century until 2100. */
const COUNTED = /^[[(]?(\d{10}|\d{13})(?:[.,](\d{1,9}))?[\])]?(?:\s*[-–|,;:]\s*|\t|\s+)(?=\S)/;
const FIRST_COUNTED = 946_684_800_000;
const LAST_COUNTED = 4_102_444_800_000;
const NO_TIME: WrittenTime = { hour: 0, minute: 0, second: 0 };

function countedHead(usual: string, written: string): Head | null {
  const found = COUNTED.exec(usual);
  if (!found) return null;
  const [whole, digits, part = ''] = found;
  const ms =
    digits!.length === 13
      ? Number(digits)
      : Number(digits) * 1000 + Number(part.padEnd(3, '0').slice(0, 3));
  if (ms < FIRST_COUNTED || ms >= LAST_COUNTED) return null;
  return { date: null, time: NO_TIME, counted: ms, rest: written.slice(whole.length) };
}

/** The head in the text with usual digits; the rest is taken from the text as it is written. */
function headOf(usual: string, written: string): Head | null {
  const counted = countedHead(usual, written);
  if (counted) return counted;
  const open = /^[[(]\s*/.exec(usual)?.[0].length ?? 0;
  const dated = dateAt(usual.slice(open));
  const afterDate = dated ? open + dated.end : open;
  const gap = dated
    ? /^(?:,|،|\s|\u202f|T|at\b|um\b|à\b|kl\.?|alle\b|a las\b|às\b|о|-|\([^)]{1,12}\))*/iu.exec(
        usual.slice(afterDate)
      )![0].length
    : 0;
  const timed = timeAt(usual.slice(afterDate + gap));
  if (!timed) return null;
  const end = afterDate + gap + timed.end;
  const close = /^\s*[\])]?\s*(?:[-–—|:,]\s|\t)?\s*/.exec(usual.slice(end))![0];
  // Without a bracket, dash, tab or blank behind the time it is a number in a text.
  if (close === '' || (!dated && open === 0 && !/^\s*(?:\t|[<*-])|^\s\S/.test(usual.slice(end))))
    return null;
  const rest = written.slice(end + close.length);
  return { date: dated?.date ?? null, time: timed.time, counted: null, rest };
}

const LONGEST_NAME = 64;

/** Who wrote, and what, in the rest of a line. */
function speakerOf(rest: string): { sender: string | null; text: string } {
  const bracketed = /^<\s*[@+%~&]?([^<>]{1,64})>\s?(.*)$/s.exec(rest);
  if (bracketed && !/^[^:]{1,30}: /.test(bracketed[1]!))
    return { sender: bracketed[1]!.trim(), text: bracketed[2]! };
  if (/^(?:-!-|\*\*\*|-->|<--|\* |--\s)/.test(rest)) return { sender: null, text: rest };
  const tabbed = /^([^\t]{1,64})\t(.*)$/s.exec(rest);
  if (tabbed) return { sender: tabbed[1]!.replace(/:$/, '').trim(), text: tabbed[2]! };
  const colon = /^(.{1,64}?):(?:\s(.*))?$/s.exec(rest.replace(MARKS, ''));
  if (colon && colon[1]!.length <= LONGEST_NAME && !/[\n"“”„«»]/.test(colon[1]!)) {
    const name = colon[1]!.replace(/[\u200e\u200f\u202a-\u202e\u2066-\u2069]/g, '').trim();
    return { sender: name, text: colon[2] ?? '' };
  }
  return { sender: null, text: rest.replace(MARKS, '') };
}

/** A name that is met once, in a file where others are met often, is a text with a colon in it. */
function withoutChanceSpeakers(drafts: Draft[]): Draft[] {
  const counts = new Map<string, number>();
  for (const { sender } of drafts)
    if (sender !== null) counts.set(sender, (counts.get(sender) ?? 0) + 1);
  let most = 0;
  for (const count of counts.values()) if (count > most) most = count;
  return drafts.map((draft) => {
    const { sender } = draft;
    if (sender === null || counts.get(sender)! > 1 || most < 8) return draft;
    const words = sender.split(/\s+/).length;
    return words > 3 ? { ...draft, sender: null, text: `${sender}: ${draft.text}` } : draft;
  });
}

/** Weekday, month, day and year without a time: `Mon Nov 23 2026`. */
function shortCtime(text: string): WrittenDate | null {
  const found = /\p{L}{3}\s+(\p{L}{3,}\s+\d{1,2})\s+(\d{4})/u.exec(text);
  return found ? (dateWithin(`${found[1]}, ${found[2]}`)?.date ?? null) : null;
}

const IN_NAME = /((?:19|20)\d{2})[-_.]?([01]\d)[-_.]?([0-3]\d)/;
const IN_FOLDERS = /((?:19|20)\d{2})[-_./]?([01]\d)[-_./]?([0-3]\d)/g;

function lastOf<T>(items: Iterable<T>): T | undefined {
  return [...items].pop();
}

function dateOfPath(path: string): WrittenDate | null {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const found = IN_NAME.exec(name) ?? lastOf(path.matchAll(IN_FOLDERS));
  if (!found) return null;
  return dateAt(`${found[1]}-${found[2]}-${found[3]}`)?.date ?? null;
}

function nextDay(date: WrittenDate): WrittenDate {
  const { year } = date;
  const [month, day] = date.kind === 'settled' ? [date.month, date.day] : [date.second, date.first];
  const next = new Date(Date.UTC(year, month - 1, day + 1));
  return {
    kind: 'settled',
    year: next.getUTCFullYear(),
    month: next.getUTCMonth() + 1,
    day: next.getUTCDate()
  };
}

/** The other party, in a heading that says with whom. */
function titleOf(text: string): string | null {
  const found =
    /\b(?:with|mit|avec|con|com|met|med)\s+(.{1,80}?)(?:\s+(?:at|on|am|um|le|\()\s.*)?$/i.exec(
      text.trim()
    );
  return found?.[1]?.trim() ?? null;
}
