import type { Database } from '../read/database';
import { BELIEVED, BELIEVED_ELSEWHERE, beyondDoubt, OWNER_BONUS } from './beyond-doubt';
import { chooseReadings, settleDoubts, type Candidate, type Region } from './candidate';
import { shorten, type MatchContext, type Searched } from './evaluate';
import {
  currentImages,
  otherImages,
  pageImages,
  type PageImage,
  type PageRange,
  type PageTest
} from './images';
import { findIntact, LayoutSet } from './intact';
import type { Layout } from './layout';
import { findOverwritten } from './overwritten';
import { mapPages, type PageUse, type PageUses } from './owners';
import { firstFilled } from './blank';
import { countSpace, type FreedSpace } from './space';
import { freeArea, staleArea, type SearchArea } from './regions';
import {
  isCredible,
  readRow,
  type FreedRow,
  type RowProof,
  type SpillReader,
  type WholeRow
} from './row';

export type SweepEvent =
  | { type: 'row'; row: FreedRow | WholeRow }
  | { type: 'support'; index: string; values: Candidate; page: Uint8Array; proof: RowProof }
  | { type: 'progress'; done: number; total: number };

export interface SweepPlan {
  layouts: Layout[];
  /** Counts the freed space of the committed state, where it is given. */
  space?: FreedSpace;
  /** What every page is used for, where that is known already. */
  uses?: PageUses;
  /** Current pages to search, or with null what is no current page; everything when absent. */
  range?: PageRange | null;
  /** Pages to search; all when absent. */
  only?: (page: number, uses: PageUses) => boolean;
}

const TODAYS_SCHEMA_FORMAT = 4;

/** What is cut has fewer agreements left, and must have them all. */
const BELIEVED_CUT = 34;
const PROGRESS_EVERY = 8;

/**
 * Reads every byte that no live structure uses, in the database file and its
 * companions, and yields the rows found there. Copies of live rows are among
 * them: folding is the caller's next step.
 */
export function* sweep(database: Database, plan: SweepPlan): Generator<SweepEvent> {
  const uses = plan.uses ?? mapPages(database);
  const layouts = new LayoutSet(plan.layouts);
  const context = contextOf(database);
  const total = countImages(database);
  let done = 0;
  const { only } = plan;
  const isAsked = only ? (page: number): boolean => only(page, uses) : () => true;
  for (const image of imagesOf(database, plan.range, isAsked)) {
    if (done++ % PROGRESS_EVERY === 0) yield { type: 'progress', done, total };
    if (!isAsked(image.number)) continue;
    const spill = spillReader(database, image, uses);
    const read = readImage(database, image, uses, layouts, context, spill, plan.space);
    // One by one, for a row's memory is used again for the next one.
    for (const reading of read?.readings ?? []) {
      const event = eventOf(database, image, reading, read!, spill);
      if (event) yield event;
    }
  }
  yield { type: 'progress', done: total, total };
}

function imagesOf(
  database: Database,
  range: PageRange | null | undefined,
  isAsked: PageTest
): Generator<PageImage> {
  if (range === undefined) return pageImages(database, isAsked);
  return range === null ? otherImages(database) : currentImages(database, range, isAsked);
}

function contextOf({ pages, header }: Database): MatchContext {
  return {
    usable: pages.usable,
    pageCount: pages.statedCount,
    encoding: header.encoding,
    // A file in which nothing was ever created says none (section 1.3.12); what is found beside it has today's.
    schemaFormat: header.schemaFormat || TODAYS_SCHEMA_FORMAT
  };
}

/** The readings that the sweep believes on one page image. */
export function* readingsOf(
  database: Database,
  image: PageImage,
  uses: PageUses,
  layouts: readonly Layout[]
): Generator<Candidate> {
  const spill = spillReader(database, image, uses);
  const set = new LayoutSet([...layouts]);
  yield* readImage(database, image, uses, set, contextOf(database), spill)?.readings ?? [];
}

function countImages(database: Database): number {
  const { pages, log, journal } = database;
  return Math.max(1, pages.pageCount + (log?.frames.length ?? 0) + (journal?.pages.length ?? 0));
}

/** What a reading comes to; null where its layout is only there to be told from others, or no row can be read. */
function eventOf(
  database: Database,
  image: PageImage,
  reading: Candidate,
  { page, area, use }: ImageReadings,
  spill: SpillReader
): SweepEvent | null {
  const { layout } = reading;
  if (!layout.wanted) return null;
  const proof = proofOf(reading, image, area, use.role, database.carved);
  if (layout.index) return { type: 'support', index: layout.name, values: reading, page, proof };
  const row = readRow(reading, page, spill, proof);
  return row && { type: 'row', row };
}

interface ImageReadings {
  page: Uint8Array;
  use: PageUse;
  /** What of the page was searched. */
  area: SearchArea;
  readings: Candidate[];
}

/** The readings of one page image; null where the page is not there. */
function readImage(
  database: Database,
  image: PageImage,
  uses: PageUses,
  layouts: LayoutSet,
  context: MatchContext,
  spill: SpillReader,
  space?: FreedSpace
): ImageReadings | null {
  const { pageSize } = database.pages;
  const current = image.origin === 'current';
  const page = current ? database.pages.passing(image.number) : wholePage(image, pageSize);
  if (!page) return null;
  const use = uses.get(image.number);
  const area = current
    ? freeArea(page, image.number, use, context.usable)
    : staleArea(page, image.number, context.usable);
  if (current && space) countSpace(space, page, use, area);
  const end = current ? database.pages.end(image.number) : pageSize;
  const readings: Candidate[] = [];
  for (const whole of area.regions) {
    const region = { start: whole.start, end: Math.min(whole.end, end) };
    const possible = isBlockOf(use, area, region) ? layouts.only(use.owner!) : layouts;
    const searched = { page, region, hints: area.hints, context };
    for (const reading of readRegion(searched, possible, use.owner, spill)) readings.push(reading);
  }
  return { page, use, area, readings };
}

/** Up to three bytes too few for a block of their own stay behind a cell. */
const LEFT_OVER = 3;

/** Whether a region is a free block of a live tree's page: nothing but cells of that tree was ever freed into it. */
function isBlockOf({ role, owner }: PageUse, { blocks }: SearchArea, region: Region): boolean {
  if (role !== 'tree' || owner === null) return false;
  return blocks.some(({ start, end }) => start === region.start && end + LEFT_OVER >= region.end);
}

function wholePage({ source, offset }: PageImage, size: number): Uint8Array | null {
  const page = source.read(offset, size);
  return page.length === size ? page : null;
}

function readRegion(
  searched: Searched,
  layouts: LayoutSet,
  owner: string | null,
  spill: SpillReader
): Candidate[] {
  const { page, region, hints, context } = searched;
  const first = firstFilled(page, region);
  if (first === region.end) return [];
  const own = layouts.byName.get(owner ?? '');
  const sure = own && beyondDoubt(searched, first, layouts.only(own.name));
  if (sure) {
    for (const reading of sure) reading.score += OWNER_BONUS;
    return sure;
  }
  const intact = findIntact(searched, layouts);
  const all = intact.concat(findOverwritten(searched, layouts, intact, owner));
  const isBelieved = (candidate: Candidate): boolean => {
    const isKnown = candidate.layout.name === owner || hints.pointers.has(candidate.start);
    if (candidate.cut) return candidate.score >= BELIEVED_CUT;
    return candidate.score >= (isKnown ? BELIEVED : BELIEVED_ELSEWHERE);
  };
  const possible = all.filter((candidate) => {
    const isSpilledGuess = candidate.guessed && candidate.overflow > 0;
    if (isSpilledGuess && !isCredible(candidate, page, spill)) return false;
    if (candidate.layout.name === owner) candidate.score += OWNER_BONUS;
    return true;
  });
  settleDoubts(
    possible.filter(({ layout }) => layout.name === owner),
    region,
    hints,
    isBelieved
  );
  const believed = possible.filter(isBelieved);
  const best = bestPerCell(believed);
  // Nothing stands beside a single one.
  return best.length < 2 ? best : chooseReadings(cutByLater(best, page, context), region);
}

/** Readings whose values begin at the same byte are readings of one cell: the best of them stays, of equals the one that claims fewer bytes. */
function bestPerCell(believed: Candidate[]): Candidate[] {
  const best = new Map<number, Candidate>();
  for (const candidate of believed) {
    const other = best.get(candidate.bodyStart);
    if (!other || isBetter(candidate, other)) best.set(candidate.bodyStart, candidate);
  }
  return [...best.values()];
}

function isBetter(a: Candidate, b: Candidate): boolean {
  // Two lengths that agree say more than any guess at overwritten ones.
  if (a.rebuilt !== b.rebuilt) return a.rebuilt < b.rebuilt;
  return a.score > b.score || (a.score === b.score && a.start > b.start);
}

/** Evidence from which a reading is taken for a fact about its neighbours. */
const CERTAIN = 40;

/**
 * A cell that begins inside another was written later, so the other one lost
 * its end there: had it been written later itself, no cell could begin in it.
 */
function cutByLater(believed: Candidate[], page: Uint8Array, context: MatchContext): Candidate[] {
  const starts = believed.filter((c) => c.score >= CERTAIN).map((c) => c.start);
  const order = [...new Set(starts)].sort((a, b) => a - b);
  return believed.flatMap((candidate) => {
    // One that begins in the header is another reading of the same cell.
    const later = order.find((at) => at >= candidate.bodyStart);
    if (later === undefined || later >= candidate.end) return [candidate];
    if (candidate.score < CERTAIN) return [];
    const short = shorten(candidate, page, later, context);
    return short && short.score >= BELIEVED_CUT ? [short] : [];
  });
}

function proofOf(
  reading: Candidate,
  image: PageImage,
  area: SearchArea,
  role: ReturnType<PageUses['get']>['role'],
  carved: boolean
): RowProof {
  return {
    file: image.source.name,
    page: image.number,
    offset: image.offset + reading.start,
    length: reading.end - reading.start,
    method: carved ? 'carved' : methodOf(reading, image, area, role)
  };
}

function methodOf(
  reading: Candidate,
  image: PageImage,
  area: SearchArea,
  role: ReturnType<PageUses['get']>['role']
): RowProof['method'] {
  if (image.origin === 'log' || image.origin === 'journal') return image.origin;
  if (image.origin === 'replaced') return 'table';
  if (role === 'free' || role === 'trunk') return 'free-page';
  const inBlock = area.blocks.some((b) => reading.start >= b.start && reading.start < b.end);
  return inBlock ? 'free-block' : 'unallocated';
}

/** Overflow pages that a live row uses now hold other content; those of the image's own time do not. */
function spillReader(database: Database, image: PageImage, uses: PageUses): SpillReader {
  const past = image.origin === 'log' || image.origin === 'replaced';
  return {
    usable: database.pages.usable,
    encoding: database.header.encoding,
    page: (number) => {
      if (!database.pages.linksHold) return null;
      if (!past && (uses.isLive(number) || uses.get(number).role === 'trunk')) return null;
      return image.pageAt(number);
    }
  };
}

/** Where declarations of dropped tables can lie: they are deleted rows of the schema table. */
export function isSchemaPlace(page: number, uses: PageUses): boolean {
  const use = uses.get(page);
  return use.owner === 'sqlite_schema' || use.role !== 'tree';
}
