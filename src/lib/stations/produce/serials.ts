import type { Numbering } from '$core/produce';
import type { ProductionRecord } from '../../storage/schema';

interface Range {
  prefix: string;
  first: number;
  last: number;
}

/** The numbers that a production took; null where it took none. */
function rangeOf({ first, last, settings }: ProductionRecord): Range | null {
  const prefix = settings?.numbering?.prefix;
  if (!first || !last || prefix === undefined) return null;
  const number = (stamp: string): number => Number(stamp.slice(prefix.length));
  return { prefix, first: number(first), last: number(last) };
}

/** The number after the last one that was given under a prefix; null where none was. */
export function nextNumber(
  productions: readonly ProductionRecord[],
  prefix: string
): number | null {
  const ranges = productions.flatMap((made) => rangeOf(made) ?? []);
  const own = ranges.filter((range) => range.prefix === prefix);
  return own.length === 0 ? null : Math.max(...own.map(({ last }) => last)) + 1;
}

/** An earlier production that took some of the numbers that will be given; null where none did. */
export function overlapping(
  productions: readonly ProductionRecord[],
  { prefix, start }: Pick<Numbering, 'prefix' | 'start'>,
  count: number
): ProductionRecord | null {
  const end = start + Math.max(1, count) - 1;
  return (
    productions.find((made) => {
      const range = rangeOf(made);
      return range?.prefix === prefix && range.first <= end && range.last >= start;
    }) ?? null
  );
}
