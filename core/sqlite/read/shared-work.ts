/** Does one part of a work elsewhere; rejects where that failed, of which its maker takes note. */
export type PartDoer<T> = (part: number) => Promise<T>;

/** Parts that each doer has before it: one in work, and others that wait, for this thread looks after it only now and then. */
const LANES = 4;

/**
 * Work in parts that other threads do beside this one, which never waits for
 * them: in the end it does itself what they have not given back.
 */
export class SharedWork<T> {
  /** What came of each part, as far as it is done. */
  readonly found: (T | undefined)[];
  private readonly waiting: number[];

  constructor(count: number, doers: readonly PartDoer<T>[]) {
    this.found = Array.from({ length: count }, () => undefined);
    this.waiting = Array.from({ length: count }, (_, part) => part);
    for (const doer of doers) for (let lane = 0; lane < LANES; lane++) void this.help(doer);
  }

  /** A part that nobody has; -1 when there is none. */
  next(): number {
    return this.waiting.shift() ?? -1;
  }

  /** A part that another took and has not given back, its last one first, for it may not have begun that; -1 when there is none. */
  unfinished(): number {
    return this.found.lastIndexOf(undefined);
  }

  /** Nobody takes another part. */
  stop(): void {
    this.waiting.length = 0;
  }

  /** Lets another thread take parts until none is left; one that failed does no more. */
  private async help(doer: PartDoer<T>): Promise<void> {
    for (let part = this.next(); part >= 0; part = this.next()) {
      const value = await doer(part).catch(() => undefined);
      if (value === undefined) return;
      this.found[part] = value;
    }
  }
}
