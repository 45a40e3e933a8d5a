type Column = Float64Array | Uint32Array | Uint8Array;
type MakeColumn<C extends Column> = new (length: number) => C;

/** A column of numbers that grows, without an object for each. */
export class Growing<C extends Column> {
  values: C;
  length = 0;

  constructor(
    private readonly make: MakeColumn<C>,
    room: number
  ) {
    this.values = new make(room);
  }

  push(value: number): void {
    if (this.length === this.values.length) this.reserve(1);
    this.values[this.length++] = value;
  }

  /** Makes room for so many more. */
  reserve(more: number): void {
    const needed = this.length + more;
    if (needed <= this.values.length) return;
    const larger = new this.make(Math.max(needed, this.values.length * 2));
    larger.set(this.values.subarray(0, this.length));
    this.values = larger;
  }

  /** What there is, in memory that may be used again. */
  view(): C {
    return this.values.subarray(0, this.length) as C;
  }

  copy(): C {
    return this.values.slice(0, this.length) as C;
  }
}

/** Values that come again and again, each named by its place in a list. */
export class Dictionary<T extends object> {
  list: T[] = [];
  private readonly places = new Map<T, number>();
  private last: T | null = null;
  private lastPlace = 0;

  place(value: T): number {
    if (value === this.last) return this.lastPlace;
    let place = this.places.get(value);
    if (place === undefined) {
      place = this.list.push(value) - 1;
      this.places.set(value, place);
    }
    this.last = value;
    this.lastPlace = place;
    return place;
  }

  clear(): void {
    this.list = [];
    this.places.clear();
    this.last = null;
  }
}

/** One object for equal values, so that a {@link Dictionary} knows them again. */
export class Interned<T extends object> {
  private readonly known = new Map<string, T>();

  of(key: string, make: () => T): T {
    let value = this.known.get(key);
    if (value === undefined) {
      // Where all differ, remembering them is no use.
      if (this.known.size >= MOST_INTERNED) this.known.clear();
      this.known.set(key, (value = make()));
    }
    return value;
  }
}

const MOST_INTERNED = 20_000;
