import type { ChatLog, LogEntry, TextLine } from './entries';
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
  rest: string;
}

interface Draft {
  head: Head;
  sender: string | null;
  text: string;
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
  /** Whether entries carry their own date; headings are then part of the text. */
  private dated = 0;

  constructor(private readonly path: string) {
    this.day = dateOfPath(path);
  }

  take(line: TextLine): void {
    const bare = line.text.replace(MARKS, '');
    const start = bare.slice(0, LONGEST_HEAD);
    const head = headOf(usualDigits(start), bare);
    if (head && (head.date || this.day)) return this.entry(line, head, bare);
    if (this.heading(bare)) return;
    const last = this.drafts[this.drafts.length - 1];
    if (!last) {
      this.title ??= titleOf(bare);
      return;
    }
    last.text += `\n${line.text}`;
    last.end = line.offset + line.length;
  }

  private entry(line: TextLine, head: Head, bare: string): void {
    if (/[ap]\.?\s?m\b/i.test(bare.slice(0, 40))) this.halfDays = true;
    if (head.date) {
      this.dated++;
      this.dates.push(head.date);
    } else this.rollOver(head.time);
    const { sender, text } = speakerOf(head.rest);
    const date = head.date ?? this.day;
    this.drafts.push({
      head: { ...head, date },
      sender,
      text,
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
    const isHeading = /^\W*$|^[-=*#]/.test(text) || this.drafts.length === 0 || text.length < 40;
    if (!isHeading) return false;
    this.day = date;
    this.lastSeconds = -1;
    if (date.kind === 'open') this.dates.push(date);
    this.title ??= titleOf(text);
    return true;
  }

  finish(filled: number, zone: string): ChatLog | null {
    const { drafts } = this;
    if (drafts.length < LEAST_LINES || drafts.length < filled * LEAST_SHARE) return null;
    const named = withoutChanceSpeakers(drafts);
    const speaking = named.filter(({ sender }) => sender !== null);
    if (speaking.length < drafts.length / 2) return null;
    const order = orderOf(this.dates, this.halfDays);
    const open = this.dates.some(({ kind }) => kind === 'open');
    const entries = named.map((draft): LogEntry => ({
      at: momentOf(draft.head.date!, draft.head.time, order, zone),
      sender: draft.sender,
      text: draft.text,
      offset: draft.offset,
      length: draft.end - draft.offset
    }));
    return {
      path: this.path,
      entries,
      title: this.title,
      zoneless: true,
      order: open
        ? order === 'day-first'
          ? 'the day stands first'
          : 'the month stands first'
        : null
    };
  }
}

/** The head in the text with usual digits; the rest is taken from the text as it is written. */
function headOf(usual: string, written: string): Head | null {
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
  return { date: dated?.date ?? null, time: timed.time, rest: written.slice(end + close.length) };
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

function dateOfPath(path: string): WrittenDate | null {
  const found = /(\d{4})[-_.]?(\d{2})[-_.]?(\d{2})/.exec(path.slice(path.lastIndexOf('/') + 1));
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
