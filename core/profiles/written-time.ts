import { TZDate } from '@date-fns/tz';

/** Year, month, day; then, behind a T, a blank or a comma, hours with minutes and perhaps seconds; then the zone. */
const DATE = '(\\d{4})([-/.]?)(\\d\\d)\\2(\\d\\d)';
const TIME = '(\\d{1,2}):?(\\d\\d)(?::?(\\d\\d)(?:[.,](\\d{1,9}))?)?';
const ZONE = '(Z|UTC|GMT|[+-]\\d\\d(?::?\\d\\d)?)';
const WRITTEN = new RegExp(`^${DATE}(?:[T ,]\\s*${TIME}\\s*${ZONE}?|\\s*${ZONE})?$`, 'i');

/** A moment as it is written. */
interface WrittenMoment {
  /** Milliseconds since 1970 of the same figures in UTC. */
  figures: number;
  /** Minutes east of UTC; null where no zone is written. */
  offset: number | null;
}

/** Reads a date with or without a time of day in the shapes of ISO 8601, basic and extended; null when it is none. */
function writtenMoment(text: string): WrittenMoment | null {
  const found = WRITTEN.exec(text.trim());
  if (!found) return null;
  const [, year, , month, day, hour = '0', minute = '0', second = '0', part = ''] = found;
  const ms = Number(part.padEnd(3, '0').slice(0, 3));
  const figures = Date.UTC(+year!, +month! - 1, +day!, +hour, +minute, +second, ms);
  const isDay = new Date(Date.UTC(+year!, +month! - 1, +day!)).getUTCDate() === +day!;
  const isTime = +hour < 24 && +minute < 60 && +second <= 60;
  if (!isDay || +month! < 1 || +month! > 12 || !isTime) return null;
  return { figures, offset: offsetOf(found[9] ?? found[10]) };
}

function offsetOf(zone: string | undefined): number | null {
  if (zone === undefined) return null;
  const found = /^([+-])(\d\d):?(\d\d)?$/.exec(zone);
  if (!found) return 0;
  const minutes = Number(found[2]) * 60 + Number(found[3] ?? 0);
  return found[1] === '-' ? -minutes : minutes;
}

/** The moment in milliseconds since 1970; without a zone of its own it is taken in the one given. */
export function writtenMilliseconds(text: string, zone = 'Etc/UTC'): number | null {
  const moment = writtenMoment(text);
  if (!moment) return null;
  const { figures, offset } = moment;
  if (offset !== null) return figures - offset * 60_000;
  return figures - offsetIn(zone, figures);
}

/** Whether a text is a time that says nothing of its zone. */
export function isZoneless(text: string): boolean {
  return writtenMoment(text)?.offset === null;
}

const A_QUARTER = 15 * 60_000;

/** Offsets by zone and quarter of an hour: asking the calendar takes longer than all else of a reading. */
const known = new Map<string, Map<number, number>>();

/** Milliseconds east of UTC at figures that were written in a zone. Where a clock was set back the first of the two moments counts. */
function offsetIn(zone: string, figures: number): number {
  if (zone === 'Etc/UTC' || zone === 'UTC') return 0;
  let offsets = known.get(zone);
  if (!offsets) known.set(zone, (offsets = new Map()));
  const quarter = Math.floor(figures / A_QUARTER);
  let offset = offsets.get(quarter);
  if (offset === undefined) {
    const at = new Date(quarter * A_QUARTER);
    const local = new TZDate(
      at.getUTCFullYear(),
      at.getUTCMonth(),
      at.getUTCDate(),
      at.getUTCHours(),
      at.getUTCMinutes(),
      zone
    );
    offset = quarter * A_QUARTER - local.getTime();
    offsets.set(quarter, offset);
  }
  return offset;
}
