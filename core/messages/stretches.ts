/** What comes next of work that is done in stretches by several. */
export type Stretch<T> =
  | { type: 'done'; at: number; value: T }
  /** Nothing goes on before that. */
  | { type: 'wait'; until: Promise<unknown> };

/** Does one stretch elsewhere; rejects where that failed, of which its maker takes note. */
export type Doer<T> = (at: number) => Promise<T>;

/** Stretches that each doer has before it: one in work, and others that wait, so that it never idles. */
export const LANES = 4;

/**
 * Shares work among this thread and others, and gives what came of it in
 * order. All work ahead, this thread too while it would wait for another, but
 * never further than `window` stretches, for what they did has to be held
 * until its turn. What fails elsewhere is done here.
 */
export class Stretches<T> {
  private head = 0;
  private readonly taken = new Set<number>();
  private readonly results = new Map<number, T>();
  private readonly arrivals = new Map<number, () => void>();
  private moved: (() => void)[] = [];

  /** @param here does one stretch in this thread. */
  constructor(
    private readonly count: number,
    private readonly here: (at: number) => T,
    private readonly doers: readonly Doer<T>[],
    private readonly window: number
  ) {
    for (const doer of doers) for (let lane = 0; lane < LANES; lane++) void this.run(doer);
  }

  *inOrder(): Generator<Stretch<T>> {
    while (this.head < this.count) {
      const at = this.head;
      const value = this.results.get(at);
      if (value === undefined) {
        yield* this.meanwhile(at);
        continue;
      }
      this.results.delete(at);
      yield { type: 'done', at, value };
      this.head++;
      for (const go of this.moved.splice(0)) go();
    }
  }

  /** Does another stretch until that one is there, or waits for it. */
  private *meanwhile(at: number): Generator<Stretch<T>> {
    const next = this.claim();
    if (next < 0) return yield { type: 'wait', until: this.arrival(at) };
    this.results.set(next, this.here(next));
    // What the others did can arrive then.
    if (next !== at) yield { type: 'wait', until: Promise.resolve() };
  }

  private arrival(at: number): Promise<void> {
    return new Promise((resolve) => this.arrivals.set(at, resolve));
  }

  private async run(doer: Doer<T>): Promise<void> {
    while (this.head < this.count) {
      const at = this.claim();
      if (at < 0) {
        await new Promise<void>((resolve) => this.moved.push(resolve));
        continue;
      }
      const isDone = await doer(at).then(
        (value) => this.arrive(at, value),
        () => this.giveBack(at)
      );
      // Who failed once does no more.
      if (!isDone) return;
    }
  }

  private arrive(at: number, value: T): true {
    this.results.set(at, value);
    this.awake(at);
    return true;
  }

  private giveBack(at: number): false {
    this.taken.delete(at);
    this.awake(at);
    return false;
  }

  private awake(at: number): void {
    this.arrivals.get(at)?.();
    this.arrivals.delete(at);
  }

  /** The next stretch that nobody has; -1 where none is near enough. */
  private claim(): number {
    const end = Math.min(this.count, this.head + this.window + 1);
    for (let at = this.head; at < end; at++) {
      if (this.taken.has(at)) continue;
      this.taken.add(at);
      return at;
    }
    return -1;
  }
}
