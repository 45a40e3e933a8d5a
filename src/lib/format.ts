import { TZDate } from '@date-fns/tz';
import { format } from 'date-fns';

/** Numbers and sizes as the interface writes them. */
const numbers = new Intl.NumberFormat('en');

export function count(n: number): string {
  return numbers.format(n);
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${count(n)} ${n === 1 ? one : many}`;
}

export function bytes(n: number): string {
  if (n < 1000) return plural(n, 'byte');
  if (n < 1e6) return `${(n / 1e3).toFixed(1)} kB`;
  return n < 1e9 ? `${(n / 1e6).toFixed(1)} MB` : `${(n / 1e9).toFixed(1)} GB`;
}

export function shortHash(sha256: string): string {
  return sha256 === '' ? '' : `${sha256.slice(0, 4)} ${sha256.slice(4, 8)} … ${sha256.slice(-4)}`;
}

export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s left`;
  return seconds < 5400
    ? `${Math.round(seconds / 60)} min left`
    : `${(seconds / 3600).toFixed(1)} h left`;
}

/** @param zone IANA zone in which the day is told; that of this machine where it is left out */
export function date(at: number, zone?: string): string {
  return format(zone ? new TZDate(at, zone) : at, 'd MMM yyyy');
}

const monthNames = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric' });

/** A span in whole months: from when, and for how long where the end is known. */
export function months(from: number, to: number | null): string {
  if (to === null) return `from ${monthNames.format(from)} on`;
  const [first, last] = [new Date(from), new Date(to)];
  const between =
    (last.getFullYear() - first.getFullYear()) * 12 + last.getMonth() - first.getMonth() + 1;
  if (between === 1) return monthNames.format(from);
  return `${between} months, ${monthNames.format(from)} to ${monthNames.format(to)}`;
}

export function zoneLabel(zone: string, at = Date.now()): string {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    timeZoneName: 'shortOffset'
  }).formatToParts(at);
  const offset =
    parts.find((part) => part.type === 'timeZoneName')?.value.replace('GMT', 'UTC') ?? '';
  if (/^(Etc\/)?UTC$/.test(zone)) return 'UTC';
  return `${zone}, ${offset === 'UTC' ? 'UTC+0' : offset}`;
}

export function errorText(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

const lists = new Intl.ListFormat('en-GB', { type: 'conjunction' });

/** “a, b and c”. */
export function listed(parts: readonly string[]): string {
  return lists.format(parts);
}

/** The time of day on this machine's clock, as 14:05. */
export function time(at: number): string {
  return format(at, 'HH:mm');
}
