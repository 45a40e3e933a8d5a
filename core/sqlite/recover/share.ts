import { isShared as liesShared, sharableRoom } from '../../host';
import type { Database } from '../read/database';
import type { LeafReader } from '../read/leaf-columns';
import { SharedWork } from '../read/shared-work';
import { FreedRows, type PackedRows } from './freed-rows';
import type { PageRange } from './images';
import type { Layout } from './layout';
import { PageUses, type PackedUses } from './owners';
import type { FreedRow } from './row';
import { noSpace, type FreedSpace } from './space';
import { entryOf, type SupportEntry } from './support';
import { sweep } from './sweep';

/** Everything that another thread needs to know before it can search pages of a database. */
export interface SharePlan {
  layouts: Layout[];
  uses: PackedUses;
}

/** What a stretch of pages holds, in a form that can be handed from thread to thread. */
export interface ShareFound {
  /** Complete rows, by table. */
  rows: [table: string, rows: PackedRows][];
  /** Rows of which something is lost. */
  cut: FreedRow[];
  entries: SupportEntry[];
  space: FreedSpace;
}

/** Threads that search parts of a database beside this one. */
export interface SearchCrew {
  /** Tells them what is to be searched; each then waits for stretches. */
  begin(plan: SharePlan): ShareSearcher[];
  /** The same threads, as readers of live rows. */
  readers(): LeafReader[];
}

/** One of them. A stretch whose search fails is searched here instead. */
export interface ShareSearcher {
  search(range: PageRange): Promise<ShareFound>;
}

/**
 * Searches a stretch of pages, or with null what lies elsewhere than in the
 * current pages. Yields the images done. Where other threads search too, what
 * is found lies in memory that they can share.
 */
export function* searchShare(
  database: Database,
  layouts: Layout[],
  uses: PageUses,
  range: PageRange | null,
  isShared = true
): Generator<number, ShareFound> {
  const { encoding } = database.header;
  const room = isShared ? sharableRoom : undefined;
  const found = new Map<string, FreedRows>();
  for (const { table, wanted } of layouts)
    if (table && wanted) found.set(table.name, new FreedRows(table, encoding, room));
  const share: ShareFound = { rows: [], cut: [], entries: [], space: noSpace() };
  for (const event of sweep(database, { layouts, uses, range, space: share.space })) {
    switch (event.type) {
      case 'progress':
        yield event.done;
        break;
      case 'row':
        if ('record' in event.row) found.get(event.row.table)?.add(event.row);
        else share.cut.push(event.row);
        break;
      case 'support': {
        const entry = entryOf(event.values, event.page, encoding, event.proof);
        if (entry) share.entries.push(entry);
      }
    }
  }
  for (const [table, rows] of found)
    if (rows.length > 0) share.rows.push([table, rows.whole.take()]);
  return share;
}

/** Memory that can be handed over instead of being copied. */
export function transferOf({ rows }: ShareFound): ArrayBuffer[] {
  const arrays = rows.flatMap(([, { columns, segments }]) => [
    ...Object.values(columns),
    ...segments
  ]);
  return arrays.filter((array) => !liesShared(array)).map(({ buffer }) => buffer as ArrayBuffer);
}

/** Files below this many pages are searched by one thread. */
const LEAST_SHARED = 2048;
/** Pages of one stretch: enough to outweigh the handing over, few enough that all threads end together. */
const STRETCH = 512;

export interface ShareStep {
  done: number;
  total: number;
}

/**
 * Searches everything, with the help of other threads where there are any.
 * What was found comes in the order of the pages, whoever searched them.
 */
export function* searchAll(
  database: Database,
  layouts: Layout[],
  uses: PageUses,
  crew: SearchCrew | null
): Generator<ShareStep, ShareFound[]> {
  const { pageCount } = database.pages;
  const isShared = crew !== null && pageCount >= LEAST_SHARED;
  const ranges = stretches(pageCount, isShared ? STRETCH : pageCount);
  const searchers = isShared ? crew.begin({ layouts, uses: uses.pack() }) : [];
  const work = new SharedWork<ShareFound>(
    ranges.length,
    searchers.map((searcher) => (i) => searcher.search(ranges[i]!))
  );
  const { found } = work;
  let done = 0;
  const total = Math.max(1, pageCount);
  const own = function* (i: number): Generator<ShareStep, void> {
    const search = searchShare(database, layouts, uses, ranges[i]!, isShared);
    let step = search.next();
    for (; !step.done; step = search.next()) {
      // Another thread may have been quicker.
      if (found[i]) return;
      done = found.reduce((sum, share, at) => sum + (share ? sizeOf(ranges[at]!) : 0), 0);
      yield { done: Math.min(total, done + step.value), total };
    }
    found[i] = step.value;
  };
  for (let i = work.next(); i >= 0; i = work.next()) yield* own(i);
  const others = yield* elsewhere(database, layouts, uses, isShared);
  for (let i = work.unfinished(); i >= 0; i = work.unfinished()) yield* own(i);
  return [...found.filter((share) => share !== undefined), others];
}

function* elsewhere(
  database: Database,
  layouts: Layout[],
  uses: PageUses,
  isShared: boolean
): Generator<ShareStep, ShareFound> {
  const work = searchShare(database, layouts, uses, null, isShared);
  let step = work.next();
  for (; !step.done; step = work.next()) yield { done: step.value, total: Infinity };
  return step.value;
}

function stretches(pages: number, size: number): PageRange[] {
  const out: PageRange[] = [];
  for (let from = 1; from <= pages; from += size)
    out.push({ from, to: Math.min(pages, from + size - 1) });
  return out;
}

function sizeOf({ from, to }: PageRange): number {
  return to - from + 1;
}
