import { TZDate } from '@date-fns/tz';

/** A date as a line writes it; the order of numbers may not be settled by it alone. */
export type WrittenDate =
  | { kind: 'settled'; year: number; month: number; day: number }
  /** Two numbers whose order only the whole file tells, then the year. */
  | { kind: 'open'; first: number; second: number; year: number; separator: string };

export interface WrittenTime {
  hour: number;
  minute: number;
  second: number;
}

/** Languages whose month and half-day names are known; exports follow the phone's own. */
const LANGUAGES =
  'en de fr es it pt nl sv da nb fi pl cs sk hu ro bg el tr ru uk hr sl et lv lt is id ms vi th ar he hi ja ko zh af ca eu gl'.split(
    ' '
  );

/** Both take a while to gather, so they are gathered when they are first asked for. */
const months = whenAsked(monthNames);
const halves = whenAsked(halfNames);

function whenAsked<T>(make: () => T): () => T {
  let made: T | null = null;
  return () => (made ??= make());
}

function plain(word: string): string {
  return word.toLowerCase().replace(/[.\u200e\u200f\u202f\s]/g, '');
}

function monthNames(): Map<string, number> {
  const names = new Map<string, number>();
  for (const language of LANGUAGES) {
    for (const month of ['long', 'short'] as const) {
      for (const alone of [true, false]) {
        const format = new Intl.DateTimeFormat(
          `${language}-u-ca-gregory`,
          alone ? { month } : { month, day: 'numeric', year: 'numeric' }
        );
        for (let m = 1; m <= 12; m++) {
          const part = format
            .formatToParts(Date.UTC(2021, m - 1, 15, 12))
            .find((p) => p.type === 'month');
          const name = plain(part?.value ?? '');
          if (/\p{L}{2}/u.test(name) && !names.has(name)) names.set(name, m);
        }
      }
    }
  }
  return names;
}

/** Words for the halves of the day, to 0 or 12 hours. */
function halfNames(): Map<string, number> {
  const names = new Map([
    ['am', 0],
    ['pm', 12],
    ['a', 0],
    ['p', 12],
    // Older forms that the language data of today no longer give.
    ['오전', 0],
    ['오후', 12],
    ['上午', 0],
    ['下午', 12],
    ['午前', 0],
    ['午後', 12]
  ]);
  for (const language of LANGUAGES) {
    const format = new Intl.DateTimeFormat(language, {
      hour: 'numeric',
      hour12: true,
      timeZone: 'UTC'
    });
    for (const [hour, add] of [
      [9, 0],
      [21, 12]
    ] as const) {
      const part = format
        .formatToParts(Date.UTC(2021, 0, 1, hour))
        .find((p) => p.type === 'dayPeriod');
      const name = plain(part?.value ?? '');
      if (name !== '' && !names.has(name)) names.set(name, add);
    }
  }
  return names;
}

/** Where the digits of other scripts begin. */
const ZEROS = [0x660, 0x6f0, 0x966];

/** Digits of other scripts as the usual ones. */
export function usualDigits(text: string): string {
  return text.replace(/[\u0660-\u0669\u06f0-\u06f9\u0966-\u096f]/g, (digit) => {
    const code = digit.charCodeAt(0);
    return String(code - ZEROS.find((zero) => code >= zero && code <= zero + 9)!);
  });
}

const GAP = '[\\u200e\\u200f\\u202f\\u00a0 ]';
const NUMERIC = `(\\d{1,4})${GAP}?(?:([./-])|[年년])${GAP}?(\\d{1,2})${GAP}?(?:[./-]|[月월])${GAP}?(\\d{1,4})(?:[日일]|\\.(?=${GAP}))?`;
const DAY_FIRST = `(\\d{1,2})(?:\\.|st|nd|rd|th)?${GAP}(?:de${GAP})?(\\p{L}[\\p{L}\\p{M}]*\\.?)${GAP}(?:de${GAP})?(\\d{4})`;
const MONTH_FIRST = `(\\p{L}[\\p{L}\\p{M}]*\\.?)${GAP}(\\d{1,2})(?:st|nd|rd|th)?,?${GAP}(\\d{4})`;
const WEEKDAY = `(?:\\p{L}[\\p{L}\\p{M}.-]*,?${GAP})?`;

/** A date at the beginning of a text, and what follows it. */
const DATE = new RegExp(`^${WEEKDAY}(?:${NUMERIC}|${DAY_FIRST}|${MONTH_FIRST})`, 'u');
const ANYWHERE = new RegExp(`(?:${NUMERIC}|${DAY_FIRST}|${MONTH_FIRST})`, 'u');
/** The form of the C library: weekday, month, day, time, year. */
const CTIME = /(\p{L}{3})\s+(\p{L}{3})\s+(\d{1,2})\s+(\d{1,2}):(\d{2}):(\d{2})\s+(\d{4})/u;

export interface FoundDate {
  date: WrittenDate;
  /** Characters of the text up to the end of the date. */
  end: number;
  index: number;
}

export function dateAt(text: string): FoundDate | null {
  return found(DATE.exec(text));
}

export function dateWithin(text: string): FoundDate | null {
  return found(ANYWHERE.exec(text));
}

export function ctimeWithin(text: string): { date: WrittenDate; time: WrittenTime } | null {
  const match = CTIME.exec(text);
  const month = match && months().get(plain(match[2]!));
  if (!match || !month) return null;
  const date: WrittenDate = { kind: 'settled', year: +match[7]!, month, day: +match[3]! };
  return { date, time: { hour: +match[4]!, minute: +match[5]!, second: +match[6]! } };
}

function found(match: RegExpExecArray | null): FoundDate | null {
  if (!match) return null;
  const date = dateOf(match);
  return date && { date, end: match.index + match[0].length, index: match.index };
}

function dateOf(match: RegExpExecArray): WrittenDate | null {
  const [, a, separator = '/', b, c, dayA, monthA, yearA, monthB, dayB, yearB] = match;
  if (a !== undefined) return numericDate(a, b!, c!, separator);
  const month = months().get(plain(monthA ?? monthB ?? ''));
  const [day, year] = [Number(dayA ?? dayB), Number(yearA ?? yearB)];
  if (month === undefined || !isYear(year) || day < 1 || day > 31) return null;
  return { kind: 'settled', year, month, day };
}

function numericDate(a: string, b: string, c: string, separator: string): WrittenDate | null {
  const [first, second, third] = [Number(a), Number(b), Number(c)];
  if (a.length === 4) {
    const fits = isYear(first) && second >= 1 && second <= 12 && third >= 1 && third <= 31;
    return fits ? { kind: 'settled', year: first, month: second, day: third } : null;
  }
  if (a.length > 2 || (c.length !== 4 && c.length !== 2)) return null;
  const year = c.length === 2 ? (third >= 80 ? 1900 : 2000) + third : third;
  const fits = isYear(year) && first >= 1 && second >= 1 && first <= 31 && second <= 31;
  return fits ? { kind: 'open', first, second, year, separator } : null;
}

function isYear(year: number): boolean {
  return year >= 1980 && year <= 2100;
}

const TIME = new RegExp(
  `^(?:(\\p{L}[\\p{L}.]{0,6})${GAP}?)?(\\d{1,2})([:.h])(\\d{2})(?:[:.](\\d{2}))?(?:[.,]\\d{1,6})?(?:${GAP}?(\\p{L}\\.?${GAP}?\\p{L}{0,4}\\.?))?`,
  'u'
);

/** A time of day at the beginning of a text, with a half of the day before or behind it. */
export function timeAt(text: string): { time: WrittenTime; end: number } | null {
  const match = TIME.exec(text);
  if (!match) return null;
  const [whole, before, hours, , minutes, seconds, after] = match;
  const half = halves().get(plain(before ?? '')) ?? halves().get(plain(after ?? ''));
  if (before !== undefined && !halves().has(plain(before))) return null;
  // A word behind the time that is no half of the day belongs to what follows.
  const end =
    after !== undefined && !halves().has(plain(after))
      ? whole.slice(0, whole.lastIndexOf(after)).trimEnd().length
      : whole.length;
  let hour = Number(hours);
  if (half !== undefined && hour <= 12) hour = (hour % 12) + half;
  const [minute, second] = [Number(minutes), Number(seconds ?? 0)];
  if (hour > 23 || minute > 59 || second > 59) return null;
  return { time: { hour, minute, second }, end };
}

/** Which of the two open numbers is the day. */
export type DateOrder = 'day-first' | 'month-first';

/** A moment in a zone, in milliseconds since 1970; null when the calendar has no such day. */
export function momentOf(
  date: WrittenDate,
  time: WrittenTime,
  order: DateOrder,
  zone: string
): number | null {
  const { year, month, day } = settled(date, order);
  if (month > 12 || new Date(Date.UTC(year, month - 1, day)).getUTCDate() !== day) return null;
  if (zone === 'Etc/UTC')
    return Date.UTC(year, month - 1, day, time.hour, time.minute, time.second);
  return new TZDate(year, month - 1, day, time.hour, time.minute, time.second, zone).getTime();
}

/** A date and a time behind it, as one field of a file holds them; null for what is none. The day stands first where both could be it. */
export function writtenMoment(text: string, zone: string): number | null {
  const basic = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)(Z?)$/.exec(text.trim());
  if (basic) {
    const [year, month, day, hour, minute, second] = basic.slice(1, 7).map(Number) as number[];
    const date: WrittenDate = { kind: 'settled', year: year!, month: month!, day: day! };
    const time = { hour: hour!, minute: minute!, second: second! };
    return momentOf(date, time, 'day-first', basic[7] === 'Z' ? 'Etc/UTC' : zone);
  }
  const date = dateAt(text.trim());
  const time =
    date &&
    timeAt(
      text
        .trim()
        .slice(date.end)
        .replace(/^[T,\s]+/, '')
    );
  return time ? momentOf(date.date, time.time, 'day-first', zone) : null;
}

function settled(
  date: WrittenDate,
  order: DateOrder
): { year: number; month: number; day: number } {
  if (date.kind === 'settled') return date;
  const { first, second, year } = date;
  return order === 'day-first'
    ? { year, month: second, day: first }
    : { year, month: first, day: second };
}

/** The order that the whole file speaks for: no number past 12 as a month, times that go forward, then the custom of the separator. */
export function orderOf(dates: readonly WrittenDate[], halfDays: boolean): DateOrder {
  const open = dates.flatMap((date) => (date.kind === 'open' ? [date] : []));
  const dayFirst = open.filter(({ first }) => first > 12).length;
  const monthFirst = open.filter(({ second }) => second > 12).length;
  if (dayFirst !== monthFirst) return dayFirst > monthFirst ? 'day-first' : 'month-first';
  const back = (order: DateOrder): number => {
    let steps = 0;
    let last = -Infinity;
    for (const date of open) {
      const { year, month, day } = settled(date, order);
      const at = year * 400 + month * 32 + day;
      if (at < last) steps++;
      last = at;
    }
    return steps;
  };
  const [a, b] = [back('day-first'), back('month-first')];
  if (a !== b) return a < b ? 'day-first' : 'month-first';
  return open[0]?.separator === '/' && halfDays ? 'month-first' : 'day-first';
}
