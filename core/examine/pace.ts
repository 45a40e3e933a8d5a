import type { PauseGate } from '../host';

/** Thrown inside a pass when its signal was aborted; it never leaves the pass. */
export class StoppedError extends Error {
  override readonly name = 'StoppedError';
}

const SLICE = 30;
const REPORT_EVERY = 100;

/**
 * Keeps synchronous work interruptible: lets the event loop run after every
 * 30 ms of work, waits while the gate is closed and stops when asked.
 */
export class Pace {
  private sliceEnd = performance.now() + SLICE;
  private nextReport = 0;

  constructor(
    private readonly signal: AbortSignal | undefined,
    private readonly gate: PauseGate | undefined,
    private readonly turn: () => Promise<void> = timer
  ) {}

  /** Whether the slice is used up, so that {@link rest} is due. */
  get due(): boolean {
    return performance.now() >= this.sliceEnd;
  }

  async rest(): Promise<void> {
    await this.turn();
    await this.gate?.pass();
    if (this.signal?.aborted) throw new StoppedError();
    this.sliceEnd = performance.now() + SLICE;
  }

  /** Waits for what is done elsewhere; ends at once when asked to stop. */
  async wait(until: Promise<unknown>): Promise<void> {
    const { signal } = this;
    if (signal?.aborted) throw new StoppedError();
    const heard = new AbortController();
    const stopped = new Promise<void>((resolve) =>
      signal?.addEventListener('abort', () => resolve(), { signal: heard.signal })
    );
    await Promise.race([until, stopped]);
    heard.abort();
    await this.rest();
  }

  /** True at most every 100 ms. */
  mayReport(): boolean {
    const now = performance.now();
    if (now < this.nextReport) return false;
    this.nextReport = now + REPORT_EVERY;
    return true;
  }
}

function timer(): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve));
}
