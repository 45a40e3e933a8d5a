import type { SqlValue } from '../sqlite';
import { idMilliseconds, ID_CLOCKS, type IdClock } from './id-time';
import type { Clock } from './profile';
import { writtenMilliseconds } from './written-time';

const EPOCH_2001 = 978_307_200_000;

/** How a clock counts. */
export interface ClockFacts {
  /** Milliseconds per unit. */
  unit: number;
  /** Milliseconds from 1970 to the clock's zero. */
  epoch: number;
}

const EPOCH_1601 = -11_644_473_600_000;
const EPOCH_YEAR_1 = -62_135_596_800_000;

export type CountingClock = Exclude<Clock, 'iso' | IdClock>;

function isIdClock(clock: Clock): clock is IdClock {
  return (ID_CLOCKS as readonly string[]).includes(clock);
}

const CLOCKS: Record<CountingClock, ClockFacts> = {
  'seconds-1970': { unit: 1000, epoch: 0 },
  'milliseconds-1970': { unit: 1, epoch: 0 },
  'microseconds-1970': { unit: 1e-3, epoch: 0 },
  'nanoseconds-1970': { unit: 1e-6, epoch: 0 },
  'seconds-2001': { unit: 1000, epoch: EPOCH_2001 },
  'nanoseconds-2001': { unit: 1e-6, epoch: EPOCH_2001 },
  'microseconds-1601': { unit: 1e-3, epoch: EPOCH_1601 },
  // A tick is 100 nanoseconds, counted from the beginning of the year 1.
  'ticks-1': { unit: 1e-4, epoch: EPOCH_YEAR_1 }
};

/** How a clock counts; null for one that keeps texts or ids. */
export function factsOf(clock: Clock): ClockFacts | null {
  return clock === 'iso' || isIdClock(clock) ? null : CLOCKS[clock];
}

/** The moment that a whole number other than zero tells, in milliseconds since 1970. */
export function counted(value: number, { unit, epoch }: ClockFacts): number {
  return (unit < 1 ? Math.floor(value / Math.round(1 / unit)) : Math.round(value * unit)) + epoch;
}

/** Moments that a message can have: its text was sent by a machine, and not long after today. */
const FIRST_MOMENT = 0;
const LAST_MOMENT = Date.UTC(2100, 0, 1);

/** A moment in milliseconds since 1970 as it is; null where no message can have been sent at it. */
export function possibleMoment(at: number): number | null {
  return at >= FIRST_MOMENT && at < LAST_MOMENT ? at : null;
}

/** A stored time in milliseconds since 1970; null when it is absent, zero, no time, or outside 1970 to 2100. Texts without a zone are read in the one given. */
export function toMilliseconds(
  value: SqlValue | undefined,
  clock: Clock,
  zone?: string
): number | null {
  const at = unbounded(value, clock, zone);
  return at === null ? null : possibleMoment(at);
}

function unbounded(value: SqlValue | undefined, clock: Clock, zone?: string): number | null {
  if (clock === 'iso') return written(value, zone);
  if (isIdClock(clock)) return idMilliseconds(value, clock);
  if (typeof value === 'string') return fromDigits(value, clock);
  if (typeof value !== 'number' && typeof value !== 'bigint') return null;
  const { unit, epoch } = CLOCKS[clock];
  if (value === 0 || value === 0n || !Number.isFinite(Number(value))) return null;
  if (typeof value === 'number') return counted(value, { unit, epoch });
  const elapsed = unit < 1 ? divide(value, Math.round(1 / unit)) : Math.round(Number(value) * unit);
  return elapsed + epoch;
}

/** Dates are kept as texts, days without separators as numbers too. */
function written(value: SqlValue | undefined, zone?: string): number | null {
  if (typeof value === 'string') return writtenMilliseconds(value, zone);
  return typeof value === 'number' ? writtenMilliseconds(String(value), zone) : null;
}

/** Numbers that a text column keeps. */
function fromDigits(text: string, clock: CountingClock): number | null {
  if (!/^\s*-?\d{1,20}(\.\d+)?\s*$/.test(text)) return null;
  const value = Number(text);
  return unbounded(Number.isSafeInteger(value) || text.includes('.') ? value : BigInt(text), clock);
}

/** Rounds down; integers past 2^53 are divided exactly, for a nearest double can lie in the millisecond before. */
function divide(value: bigint, by: number): number {
  return Number(BigInt.asIntN(64, value) / BigInt(by));
}

const A_YEAR = 365 * 86_400_000;
const EARLIEST = Date.UTC(1995, 0, 1);
const LATEST = Date.UTC(2045, 0, 1);

export const COUNTING_CLOCKS = Object.keys(CLOCKS) as CountingClock[];

/**
 * The clock that a whole column keeps. The declared one stands unless the
 * middle of the column then falls outside 1995 to 2045 and another clock of
 * the same epoch brings it inside: apps have changed their unit over time.
 */
export function settleClock(values: SqlValue[], declared: Clock): Clock {
  if (declared === 'iso' || isIdClock(declared)) return declared;
  const numbers = values
    .filter((v): v is number | bigint => typeof v === 'number' || typeof v === 'bigint')
    .map(Number)
    .filter((n) => n !== 0)
    .sort((a, b) => a - b);
  const middle = numbers[Math.floor(numbers.length / 2)];
  if (middle === undefined || isPlausible(middle, declared)) return declared;
  const { epoch } = CLOCKS[declared];
  const others = (Object.keys(CLOCKS) as CountingClock[]).filter((c) => CLOCKS[c].epoch === epoch);
  return others.find((clock) => isPlausible(middle, clock)) ?? declared;
}

/** Whether messages were sent at a moment as a rule: from 1995 to 2045. */
export function isPlausibleMoment(at: number): boolean {
  return at >= EARLIEST && at < LATEST;
}

export function isPlausible(value: number, clock: CountingClock): boolean {
  const at = toMilliseconds(value, clock);
  // A moment right behind the clock's zero is a large unit taken for a small one.
  const floor = Math.max(EARLIEST, CLOCKS[clock].epoch + A_YEAR);
  return at !== null && at >= floor && at < LATEST;
}
