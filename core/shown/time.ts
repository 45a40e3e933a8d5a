import { TZDate } from '@date-fns/tz';

/** Writes times in one zone, always with the zone. */
export class ZonedTime {
  private readonly parts: Intl.DateTimeFormat;
  private readonly day: Intl.DateTimeFormat;

  constructor(readonly zone: string) {
    const clock = { timeZone: zone, hourCycle: 'h23', calendar: 'gregory' } as const;
    this.parts = new Intl.DateTimeFormat('en-GB', {
      ...clock,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      timeZoneName: 'longOffset'
    });
    this.day = new Intl.DateTimeFormat('en-GB', {
      ...clock,
      weekday: 'long',
      day: 'numeric',
      month: 'long',
      year: 'numeric'
    });
  }

  /** `2026-03-12`, `08:55:12` and `UTC+1`. */
  split(at: number): { date: string; time: string; offset: string } {
    const found: Record<string, string> = {};
    for (const { type, value } of this.parts.formatToParts(at)) found[type] = value;
    return {
      date: `${found.year}-${found.month}-${found.day}`,
      time: `${found.hour}:${found.minute}:${found.second}`,
      offset: shortOffset(found.timeZoneName ?? '')
    };
  }

  /** `Thursday 12 March 2026`. */
  longDay(at: number): string {
    return this.day.format(at).replace(',', '');
  }

  /** `12 March 2026 08:55:12 UTC+1` in full, for citations. */
  full(at: number): string {
    const { date, time, offset } = this.split(at);
    return `${date} ${time} ${offset}`;
  }
}

/** `GMT+01:00` becomes `UTC+1`, `GMT` becomes `UTC+0`. */
function shortOffset(name: string): string {
  const match = /GMT(?:([+-])(\d\d):(\d\d))?/.exec(name);
  if (!match || match[1] === undefined) return 'UTC+0';
  const minutes = match[3] === '00' ? '' : `:${match[3]}`;
  return `UTC${match[1]}${Number(match[2])}${minutes}`;
}

/** Whether a name is that of a time zone this machine knows. */
export function isZone(zone: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}

/**
 * The moment that a written time stands for, milliseconds since 1970. A time
 * without a zone is one of `zone`; a day stands for its first or last moment.
 */
export function momentIn(written: string, zone: string, side: 'first' | 'last'): number {
  if (/(Z|[+-]\d\d:?\d\d)$/i.test(written) && written.includes('T')) return Date.parse(written);
  const isDay = !written.includes('T');
  const local = isDay ? `${written}T${side === 'first' ? '00:00:00' : '23:59:59.999'}` : written;
  const [date, time] = local.split('T');
  const [year, month, day] = date!.split('-').map(Number);
  const [hour = 0, minute = 0, second = 0] = time!.split(':').map(Number);
  const whole = Math.floor(second);
  const ms = Math.round((second - whole) * 1000);
  return new TZDate(year!, month! - 1, day!, hour, minute, whole, ms, zone).getTime();
}
