import type { WrittenColumns } from './placed';

const FIRST_ROOM = 1024;

/** What is told of rows that were written, in columns that grow. */
export class WrittenRows {
  private rowids = new Float64Array(FIRST_ROOM);
  private moments = new Float64Array(FIRST_ROOM);
  private contexts = new Uint32Array(FIRST_ROOM);
  length = 0;

  /** NaN stands for a number that is lost. */
  add(rowid: number, sentAt: number | null, context: number): void {
    if (this.length === this.rowids.length) this.grow();
    this.rowids[this.length] = rowid;
    this.moments[this.length] = sentAt ?? NaN;
    this.contexts[this.length++] = context;
  }

  private grow(): void {
    const grown = <T extends Float64Array | Uint32Array>(old: T, into: T): T => {
      into.set(old);
      return into;
    };
    const size = this.length * 2;
    this.rowids = grown(this.rowids, new Float64Array(size));
    this.moments = grown(this.moments, new Float64Array(size));
    this.contexts = grown(this.contexts, new Uint32Array(size));
  }

  /** What was added since the last call. */
  take(): WrittenColumns {
    const { length } = this;
    this.length = 0;
    return {
      rowids: this.rowids.slice(0, length),
      moments: this.moments.slice(0, length),
      contexts: this.contexts.slice(0, length)
    };
  }
}
