/** First and last missing number. */
export interface Run {
  from: number;
  to: number;
}

/** Row numbers in their order. */
export interface NumberOrder {
  /** How many there are, doubles counted. */
  readonly count: number;
  /** The least one above zero; 0 when there is none. */
  readonly first: number;
  /** The greatest one; 0 when there is none. */
  readonly last: number;
  /** The numbers above `before` up to `last` that are not among these. */
  missing(before: number, last: number): Run[];
  /** The greatest one below a number, and the least one above it; null when there is none. */
  below(number: number): number | null;
  above(number: number): number | null;
}

/** The numbers of some lists in their order. */
export function orderOf(lists: readonly Float64Array[]): NumberOrder {
  return Marks.of(lists) ?? new Listed(lists);
}

/** Bytes of marks that a number may take on the average: beyond, numbers are listed. */
const MOST_BYTES_EACH = 8;

/** A mark for each number that is there: row numbers mostly follow each other, and need no sorting then. */
class Marks implements NumberOrder {
  private constructor(
    private readonly marks: Uint8Array,
    readonly count: number,
    readonly first: number,
    readonly last: number
  ) {}

  /** Null where there are negative numbers, or few for their size. */
  static of(lists: readonly Float64Array[]): Marks | null {
    const count = lists.reduce((sum, list) => sum + list.length, 0);
    const most = count * MOST_BYTES_EACH;
    const marks = new Uint8Array(most + 1);
    let first = Infinity;
    let last = 0;
    for (const list of lists) {
      for (let i = 0; i < list.length; i++) {
        const number = list[i]!;
        if (!(number >= 0 && number <= most)) return null;
        marks[number] = 1;
        if (number > last) last = number;
        if (number < first && number > 0) first = number;
      }
    }
    return new Marks(marks, count, first === Infinity ? 0 : first, last);
  }

  missing(before: number, last: number): Run[] {
    const runs: Run[] = [];
    const { marks } = this;
    let from = before + 1;
    for (let number = from; number <= this.last; number++) {
      if (marks[number] === 0) continue;
      if (number > from) runs.push({ from, to: number - 1 });
      from = number + 1;
    }
    if (last >= from) runs.push({ from, to: last });
    return runs;
  }

  below(number: number): number | null {
    const at = Math.min(number - 1, this.last);
    const found = at < 0 ? -1 : this.marks.lastIndexOf(1, at);
    return found < 0 ? null : found;
  }

  above(number: number): number | null {
    const found = this.marks.indexOf(1, Math.max(0, number + 1));
    return found < 0 ? null : found;
  }
}

/** Numbers in a sorted list. */
class Listed implements NumberOrder {
  private readonly list: Float64Array;

  constructor(lists: readonly Float64Array[]) {
    this.list = lists.map(sorted).reduce(merged, new Float64Array(0));
  }

  get count(): number {
    return this.list.length;
  }

  get first(): number {
    return this.list.find((number) => number > 0) ?? 0;
  }

  get last(): number {
    return Math.max(0, this.list.at(-1) ?? 0);
  }

  missing(before: number, last: number): Run[] {
    const runs: Run[] = [];
    const upTo = (number: number): void => {
      if (number > before + 1) runs.push({ from: before + 1, to: number - 1 });
      before = Math.max(before, number);
    };
    for (const number of this.list) upTo(number);
    upTo(last + 1);
    return runs;
  }

  below(number: number): number | null {
    return this.list[this.place(number) - 1] ?? null;
  }

  above(number: number): number | null {
    let at = this.place(number);
    while (this.list[at] === number) at++;
    return this.list[at] ?? null;
  }

  /** Index of the first number that is not below. */
  private place(number: number): number {
    let low = 0;
    let high = this.list.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.list[middle]! < number) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

/**
 * A list of numbers in their order. Row numbers of large tables come in order
 * but for a tail, which alone is sorted.
 */
export function sorted(numbers: Float64Array): Float64Array {
  let rising = 1;
  while (rising < numbers.length && numbers[rising]! >= numbers[rising - 1]!) rising++;
  if (rising >= numbers.length) return numbers;
  return merged(numbers.subarray(0, rising), numbers.slice(rising).sort());
}

/** Two sorted lists as one. */
export function merged(some: Float64Array, others: Float64Array): Float64Array {
  const out = new Float64Array(some.length + others.length);
  let a = 0;
  let b = 0;
  for (let i = 0; i < out.length; i++) {
    const isFirst = b >= others.length || (a < some.length && some[a]! <= others[b]!);
    out[i] = isFirst ? some[a++]! : others[b++]!;
  }
  return out;
}
