import { expose, transfer } from 'comlink';
import { TextHolder, type FoundRows, type HeldStore } from './text-holder';

const holder = new TextHolder();

/** One of the workers that hold the case's texts. */
const searcher = {
  /** Begins to hold a share of the texts. */
  hold(stores: readonly HeldStore[], first: number, of: number): void {
    holder.hold(stores, first, of);
    holder.read().catch((error: unknown) => console.warn('texts were not read ahead', error));
  },

  /** Tells of rows as they are found; ends early when another search begins. */
  search(query: string, tell: (found: FoundRows[]) => unknown): Promise<void> {
    return holder.tell(query, (found) => {
      const buffers = found.map(({ rows }) => rows.buffer as ArrayBuffer);
      return tell(transfer(found, buffers));
    });
  }
};

export type Searcher = typeof searcher;

expose(searcher);
