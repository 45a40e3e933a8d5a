/** What comes next of work that is done in stretches by several. */
export type Stretch<T> =
  /** To be done by the asking side itself. */
  | { type: 'own'; at: number }
  | { type: 'done'; at: number; value: T }
  /** Nothing goes on before that. */
  | { type: 'wait'; until: Promise<unknown> };

/** Does one stretch elsewhere; rejects where that failed, of which its maker takes note. */
export type Doer<T> = (at: number) => Promise<T>;

/** Stretches that each doer has before it: one in work, one that waits, so that it never idles. */
const LANES = 2;

/**
 * Shares work among this thread and others, and gives what came of it in
 * order. The others work ahead, but never further than `window` stretches, for
 * what they did has to be held until its turn. Every so many stretches are
 * left to this thread, which could do nothing meanwhile; only when it is
 * behind are those taken too. What fails elsewhere is done here.
 */
export class Stretches<T> {
  private head = 0;
  private readonly taken = new Set<number>();
  private readonly results = new Map<number, T | null>();
  private readonly arrivals = new Map<number, () => void>();
  private moved: (() => void)[] = [];

  constructor(
    private readonly count: number,
    private readonly doers: readonly Doer<T>[],
    private readonly window: number
  ) {
    for (const doer of doers) for (let lane = 0; lane < LANES; lane++) void this.run(doer);
  }

  *inOrder(): Generator<Stretch<T>> {
    while (this.head < this.count) {
      const at = this.head;
      const value = this.results.get(at);
      if (value === undefined && this.taken.has(at)) {
        yield { type: 'wait', until: this.arrival(at) };
        continue;
      }
      this.taken.add(at);
      this.results.delete(at);
      if (value === undefined || value === null) yield { type: 'own', at };
      else yield { type: 'done', at, value };
      this.head++;
      for (const go of this.moved.splice(0)) go();
    }
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
      const value = await doer(at).catch(() => null);
      this.results.set(at, value);
      this.arrivals.get(at)?.();
      this.arrivals.delete(at);
      // Who failed once does no more.
      if (value === null) return;
    }
  }

  /** The next stretch that nobody has, behind the one that this thread is at; -1 where none is near enough. */
  private claim(): number {
    const end = Math.min(this.count, this.head + this.window + 1);
    let late = -1;
    for (let at = this.head + 1; at < end; at++) {
      if (this.taken.has(at)) continue;
      late = at;
      if (!this.isOwn(at)) break;
    }
    if (late >= 0) this.taken.add(late);
    return late;
  }

  /** Whether a stretch is left to this thread, unless it is behind. */
  private isOwn(at: number): boolean {
    return at % (this.doers.length + 1) === 0;
  }
}
