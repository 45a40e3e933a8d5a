import { ownRoom, type MakeRoom } from './shared';

/** Numbers beside the last place that are looked at one by one. */
const STEPS = 8;
/** Questions after which the place is looked for anew: where they come in no order this would take longer than it saves. */
const PATIENCE = 16;

/** A column of numbers in rising order, those that are none left out. */
export function sortedColumn(numbers: Float64Array, room: MakeRoom): Float64Array {
  const sorted = new Float64Array(room(numbers.byteLength));
  sorted.set(numbers);
  sorted.sort();
  let { length } = sorted;
  while (length > 0 && Number.isNaN(sorted[length - 1])) length--;
  return sorted.subarray(0, length);
}

/** The numbers that stand in a column more than once. */
export function repeated(numbers: Float64Array): ReadonlySet<number> {
  const found = new Set<number>();
  const sorted = isRising(numbers) ? numbers : sortedColumn(numbers, ownRoom);
  for (let at = 1; at < sorted.length; at++)
    if (sorted[at] === sorted[at - 1]) found.add(sorted[at]!);
  return found;
}

function isRising(numbers: Float64Array): boolean {
  for (let at = 1; at < numbers.length; at++) if (!(numbers[at]! >= numbers[at - 1]!)) return false;
  return true;
}

/**
 * Tells of numbers that mostly come one after the other that they do not stand
 * in a sorted column: it remembers between which two of them the last one lay,
 * so that most answers need no memory at all.
 */
export class GapFinder {
  /** The gap before `at`, of which the last number was asked. */
  private low = NaN;
  private high = NaN;
  private at = 0;
  private patience = PATIENCE;

  constructor(private readonly sorted: Float64Array) {}

  /** True for a number that surely stands nowhere; false where it may. */
  lacks(number: number): boolean {
    if (number > this.low && number < this.high) return true;
    if (Number.isNaN(number) || !this.move(number)) return false;
    this.low = this.at > 0 ? this.sorted[this.at - 1]! : -Infinity;
    this.high = this.at < this.sorted.length ? this.sorted[this.at]! : Infinity;
    return number > this.low && number < this.high;
  }

  /** Goes to the gap of a number, or behind the number itself; false where it is too far away to be looked for. */
  private move(number: number): boolean {
    const { sorted } = this;
    let { at } = this;
    const first = Math.max(0, at - STEPS);
    const last = Math.min(sorted.length, at + STEPS);
    while (at < last && sorted[at]! <= number) at++;
    while (at > first && sorted[at - 1]! > number) at--;
    this.patience++;
    const isFound = (at === 0 || sorted[at - 1]! <= number) && !(sorted[at]! <= number);
    if (!isFound && this.patience < PATIENCE) return false;
    if (!isFound) this.patience = 0;
    this.at = isFound ? at : placeOf(sorted, number);
    return true;
  }
}

/** The place of the first number that is larger. */
function placeOf(sorted: Float64Array, number: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (sorted[middle]! <= number) low = middle + 1;
    else high = middle;
  }
  return low;
}
