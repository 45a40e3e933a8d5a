/** Time after which a rate can be told, in milliseconds. */
const SETTLED = 300;

/** Rate and time left of a copy. */
export class Pace {
  private startedAt: number;
  private from = 0;

  constructor(private readonly now: () => number) {
    this.startedAt = now();
  }

  /** Counts from here on: what came before was kept already, or lies before a pause. */
  begin(done: number): void {
    this.startedAt = this.now();
    this.from = done;
  }

  /** Bytes done and to do, bytes a second, seconds left. */
  at(
    done: number,
    total: number
  ): { done: number; total: number; rate: number | null; secondsLeft: number | null } {
    const passed = this.now() - this.startedAt;
    const rate = passed < SETTLED ? null : ((done - this.from) * 1000) / passed;
    const secondsLeft = rate === null || rate <= 0 ? null : (total - done) / rate;
    return { done, total, rate, secondsLeft };
  }
}
