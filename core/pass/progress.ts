import type { ProgressEvent, Stage } from './types';

/** Share of the whole work that is over when a stage begins, and the share it takes. */
const OPENING: [number, number] = [0, 0.1];
const HASH: [number, number] = [0.1, 0.15];
const STORES: [number, number] = [0.25, 0.65];
const FILES: [number, number] = [0.9, 0.1];

/** Within one store. */
const STORE_STAGES: Partial<Record<Stage, [number, number]>> = {
  rows: [0, 0.25],
  declarations: [0.25, 0.15],
  freed: [0.4, 0.5],
  messages: [0.9, 0.1]
};

/** Keeps the fraction of a pass that is over; it never goes back. */
export class Progress {
  found = 0;
  private reached = 0;
  private storeBytesDone = 0;
  private storeBytes = 1;
  private current = 0;

  constructor(private readonly bytes: number) {}

  beginStores(sizes: number[]): void {
    this.storeBytes = Math.max(
      1,
      sizes.reduce((sum, size) => sum + size, 0)
    );
  }

  beginStore(size: number): void {
    this.storeBytesDone += this.current;
    this.current = size;
  }

  /** The store that was begun is left for later. */
  postponeStore(): void {
    this.current = 0;
  }

  event(stage: Stage, done: number, total: number): ProgressEvent {
    const part = Math.min(1, done / Math.max(total, 1));
    this.reached = Math.max(this.reached, this.fraction(stage, part));
    const { reached: fraction, bytes, found } = this;
    return { type: 'progress', stage, fraction, bytes, found };
  }

  private fraction(stage: Stage, part: number): number {
    const within = ([start, share]: [number, number], x: number): number => start + share * x;
    const store = STORE_STAGES[stage];
    if (store) {
      const bytes = this.storeBytesDone + this.current * within(store, part);
      return within(STORES, Math.min(1, bytes / this.storeBytes));
    }
    if (stage === 'hash') return within(HASH, part);
    if (stage === 'carve') return within(STORES, part);
    return within(stage === 'files' ? FILES : OPENING, part);
  }
}
