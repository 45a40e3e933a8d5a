import type { ProgressEvent, Stage } from './types';

/** Share of the whole work that is over when a stage begins, and the share it takes. */
const OPENING: [number, number] = [0, 0.1];
const HASH: [number, number] = [0.1, 0.15];
const STORES: [number, number] = [0.25, 0.65];
const FILES: [number, number] = [0.9, 0.1];

/** Within one store, as it was measured; what is left is for whoever keeps what was found. */
const STORE_STAGES: Partial<Record<Stage, [number, number]>> = {
  rows: [0, 0.14],
  declarations: [0.14, 0.06],
  freed: [0.2, 0.23],
  messages: [0.43, 0.32]
};

/** Keeps the fraction of a pass that is over; it never goes back. */
export class Progress {
  private foundBefore = 0;
  private foundHere = 0;
  private wasFirstLook = false;
  private reached = 0;
  private storeBytesDone = 0;
  private storeBytes = 1;
  private current = 0;

  constructor(private readonly bytes: number) {}

  /** Records of the store that is being read. */
  addFound(count: number): void {
    if (this.wasFirstLook) this.foundHere = 0;
    this.wasFirstLook = false;
    this.foundHere += count;
  }

  /** What was found so far was a first look: it comes again. */
  endFirstLook(): void {
    this.wasFirstLook = true;
  }

  private get found(): number {
    return this.foundBefore + this.foundHere;
  }

  beginStores(sizes: number[]): void {
    this.storeBytes = Math.max(
      1,
      sizes.reduce((sum, size) => sum + size, 0)
    );
  }

  beginStore(size: number): void {
    this.storeBytesDone += this.current;
    this.current = size;
    this.foundBefore += this.foundHere;
    this.foundHere = 0;
    this.wasFirstLook = false;
  }

  /** The store that was begun is left for later. */
  postponeStore(): void {
    this.current = 0;
  }

  event(stage: Stage, done: number, total: number): ProgressEvent {
    const part = Math.min(1, done / Math.max(total, 1));
    this.reached = Math.max(this.reached, this.fraction(stage, part));
    const { reached: fraction, bytes, found } = this;
    const storeDone = (this.storeBytesDone + this.current) / this.storeBytes;
    const after = Math.max(fraction, STORES[0] + STORES[1] * Math.min(1, storeDone));
    return { type: 'progress', stage, part, fraction, after, bytes, found };
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
