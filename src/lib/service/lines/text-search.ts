import { proxy, wrap, type Remote } from 'comlink';
import type { Searcher } from './search.worker';
import type { StoreLines } from './store-lines';
import type { FoundRows, HeldStore } from './text-holder';

/** Which rows of which stores hold what is looked for, as far as that is known. */
export class Hits {
  isDone = false;
  private readonly found: Uint32Array[][];
  private readonly marked: (Uint8Array | undefined)[] = [];
  private readonly places: ReadonlyMap<string, number>;

  /** @param stores the stores that are searched, in their places, with how many rows each has. */
  constructor(
    readonly query: string,
    private readonly stores: readonly { store: string; count: number }[]
  ) {
    this.found = stores.map(() => []);
    this.places = new Map(stores.map(({ store }, place) => [store, place]));
  }

  add(found: readonly FoundRows[]): void {
    for (const { store, rows } of found) {
      const place = this.places.get(store);
      if (place === undefined) continue;
      this.found[place]!.push(rows);
      const marks = this.marked[place];
      if (marks) for (const row of rows) marks[row] = 1;
    }
  }

  /** The rows of the store of a place, in no order. */
  rows(place: number): readonly Uint32Array[] {
    return this.found[place] ?? [];
  }

  /** One for each row of a store that is a hit. */
  marks(place: number): Uint8Array {
    let marks = this.marked[place];
    if (!marks) {
      marks = new Uint8Array(this.stores[place]?.count ?? 0);
      for (const rows of this.rows(place)) for (const row of rows) marks[row] = 1;
      this.marked[place] = marks;
    }
    return marks;
  }
}

/** Finds lines by their texts. */
export interface TextFinder {
  /** All hits. Where another text is looked for before they are known, they stay as they are. */
  find(query: string): Promise<Hits>;
  /** Those that are known after a moment; `more` is called as more come, and when all are there. */
  begin(query: string, more: () => void): Promise<Hits>;
}

interface Search {
  hits: Hits;
  done: Promise<void>;
  /** Somebody is told as more hits come. */
  isTold: boolean;
}

/** How long a question waits for all hits before it takes those that are known, in milliseconds. */
const PATIENCE = 120;
const TOLD_EVERY = 150;
/** Each holds its share of the texts. */
const MOST_WORKERS = 4;

/** Searches the texts of a case in workers that hold them. */
export class TextSearch implements TextFinder {
  private workers: Remote<Searcher>[] = [];
  private held: HeldStore[] = [];
  private last: Search | null = null;

  /** @param stores what is to be held, where a search comes before {@link hold}. */
  constructor(private readonly stores: () => readonly StoreLines[]) {}

  /** Holds the texts of these stores from now on. */
  hold(stores: readonly StoreLines[]): void {
    const held = stores.map(({ record: { caseId, sourceId, store, run, count } }) => ({
      caseId,
      sourceId,
      store,
      run,
      count
    }));
    if (JSON.stringify(held) === JSON.stringify(this.held)) return;
    this.held = held;
    this.last = null;
    if (this.held.length > 0) this.start();
    this.workers.forEach((worker, i) => void worker.hold(this.held, i, this.workers.length));
  }

  private start(): void {
    if (this.workers.length > 0) return;
    const count = Math.min(MOST_WORKERS, Math.max(1, navigator.hardwareConcurrency));
    this.workers = Array.from({ length: count }, () =>
      wrap<Searcher>(new Worker(new URL('./search.worker.ts', import.meta.url), { type: 'module' }))
    );
  }

  async find(query: string): Promise<Hits> {
    const { hits, done } = this.searched(query);
    await done;
    return hits;
  }

  async begin(query: string, more: () => void): Promise<Hits> {
    const search = this.searched(query);
    const patience = new Promise<void>((resolve) => setTimeout(resolve, PATIENCE));
    await Promise.race([search.done, patience]);
    if (!search.hits.isDone && !search.isTold) void this.tell(search, more);
    return search.hits;
  }

  /** Tells of more hits now and then, until all are there or another text is looked for. */
  private async tell(search: Search, more: () => void): Promise<void> {
    search.isTold = true;
    const timer = setInterval(more, TOLD_EVERY);
    // A failure is met by who asks next.
    await search.done.catch(() => undefined);
    clearInterval(timer);
    if (this.last === search) more();
  }

  private searched(query: string): Search {
    if (this.workers.length === 0) this.hold(this.stores());
    if (this.last?.hits.query === query) return this.last;
    const hits = new Hits(query, this.held);
    return (this.last = { hits, done: this.run(hits), isTold: false });
  }

  private async run(hits: Hits): Promise<void> {
    const tell = proxy((found: FoundRows[]) => hits.add(found));
    await Promise.all(this.workers.map((worker) => worker.search(hits.query, tell)));
    hits.isDone = this.last?.hits === hits;
  }
}
