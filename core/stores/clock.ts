import type { SqlValue } from '../sqlite';
import type { Clock } from './profile';

const EPOCH_2001 = 978_307_200_000;

interface ClockFacts {
  /** Milliseconds per unit. */
  unit: number;
  /** Milliseconds from 1970 to the clock's zero. */
  epoch: number;
}

const CLOCKS: Record<Clock, ClockFacts> = {
  'seconds-1970': { unit: 1000, epoch: 0 },
  'milliseconds-1970': { unit: 1, epoch: 0 },
  'microseconds-1970': { unit: 1e-3, epoch: 0 },
  'nanoseconds-1970': { unit: 1e-6, epoch: 0 },
  'seconds-2001': { unit: 1000, epoch: EPOCH_2001 },
  'nanoseconds-2001': { unit: 1e-6, epoch: EPOCH_2001 }
};

/** A stored time in milliseconds since 1970; null when it is absent, zero or no number. */
export function toMilliseconds(value: SqlValue | undefined, clock: Clock): number | null {
  if (typeof value !== 'number' && typeof value !== 'bigint') return null;
  const { unit, epoch } = CLOCKS[clock];
  if (value === 0 || value === 0n || !Number.isFinite(Number(value))) return null;
  const elapsed = unit < 1 ? divide(value, Math.round(1 / unit)) : Math.round(Number(value) * unit);
  return elapsed + epoch;
}

/** Rounds down; integers past 2^53 are divided exactly, for a nearest double can lie in the millisecond before. */
function divide(value: number | bigint, by: number): number {
  if (typeof value === 'number') return Math.floor(value / by);
  return Number(BigInt.asIntN(64, value) / BigInt(by));
}

const A_YEAR = 365 * 86_400_000;
const EARLIEST = Date.UTC(1995, 0, 1);
const LATEST = Date.UTC(2045, 0, 1);

/**
 * The clock that a whole column keeps. The declared one stands unless the
 * middle of the column then falls outside 1995 to 2045 and another clock of
 * the same epoch brings it inside: apps have changed their unit over time.
 */
export function settleClock(values: SqlValue[], declared: Clock): Clock {
  const numbers = values
    .filter((v): v is number | bigint => typeof v === 'number' || typeof v === 'bigint')
    .map(Number)
    .filter((n) => n !== 0)
    .sort((a, b) => a - b);
  const middle = numbers[Math.floor(numbers.length / 2)];
  if (middle === undefined || isPlausible(middle, declared)) return declared;
  const { epoch } = CLOCKS[declared];
  const others = (Object.keys(CLOCKS) as Clock[]).filter((c) => CLOCKS[c].epoch === epoch);
  return others.find((clock) => isPlausible(middle, clock)) ?? declared;
}

function isPlausible(value: number, clock: Clock): boolean {
  const at = toMilliseconds(value, clock);
  // A moment right behind the clock's zero is a large unit taken for a small one.
  const floor = Math.max(EARLIEST, CLOCKS[clock].epoch + A_YEAR);
  return at !== null && at >= floor && at < LATEST;
}
