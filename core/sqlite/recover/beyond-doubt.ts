import { intBe, u16be } from '../../host';
import { serialSize } from '../format/record';
import { firstFilled } from './blank';
import { settleDoubts, type Candidate, type Hints, type Region } from './candidate';
import type { MatchContext, Searched } from './evaluate';
import { intactAt, type LayoutSet } from './intact';
import { ENOUGH_ROWS, suitsRange, type Layout } from './layout';
import { oneCell } from './one-cell';
import { CERTAIN, filledAt, guessedAt, overwrittenAt } from './overwritten';
import { isOverwritten } from './row';

/** Least evidence, in bits, for a reading to be believed, and what it has ahead on a page of its own table. */
export const BELIEVED = 18;
export const OWNER_BONUS = 4;
/** A page owned by another table, or by none, must convince by more. */
export const BELIEVED_ELSEWHERE = 24;
/** Evidence for a cell that fills its block; a text of two merged cells has control codes, which speak against it. */
const BEYOND_DOUBT = 48;
/** The same for cells of which no byte is lost, each of which ends where the next begins. */
const INTACT_BEYOND_DOUBT = 42;
/** Bits that the best reading must be ahead of another. */
const AHEAD = 10;
/** Bytes too few for a block of their own stay behind a cell. */
const MOST_LEFT_OVER = 3;

/**
 * Most of what is freed on a page are cells of the page's own table from end
 * to end: a free block that is one cell, or a gap whose end is filled by
 * intact ones. Where that is beyond doubt nothing else has to be tried. Null
 * where it is not. `own` holds the layout of the page's owner alone; `first`
 * is the first byte of the region that is not zero.
 */
export function beyondDoubt(searched: Searched, first: number, own: LayoutSet): Candidate[] | null {
  const { page, region, hints, context } = searched;
  const [layout] = own.all;
  const isBlock = hints.blocks.has(region.start);
  const block = isBlock ? region : blockInGap(page, region, first);
  const whole = block && wholeBlock(page, block, layout!, searched);
  if (whole && !showsLaterWrite(whole, page, context)) return [whole];
  return isBlock ? null : intactChain(searched, first, own);
}

/** Bytes of old pointers that a shrunken pointer array leaves at the beginning of a gap. */
const MOST_POINTERS = 16;

/**
 * A free block that was taken into the gap before the cells: it ends where the
 * gap does, as its header says, and nothing but old pointers and zeros lies
 * before it.
 */
function blockInGap(page: Uint8Array, { start, end }: Region, first: number): Region | null {
  const skipped = Math.min(end, Math.max(first, start + MOST_POINTERS));
  let zeros = skipped;
  while (zeros > start && page[zeros - 1] === 0) zeros--;
  const filled = firstFilled(page, { start: skipped, end });
  // The next block, 0 where there is none, and the high byte of a size can be zero.
  const later = Math.max(zeros, filled - 3);
  return blockAmong(page, start, skipped, end) ?? blockAmong(page, later, filled, end);
}

/** The first place from one to another at which a block's header would say that it ends at `end`. */
function blockAmong(page: Uint8Array, from: number, to: number, end: number): Region | null {
  for (let at = from; at <= to && at + 4 < end; at++)
    if (u16be(page, at + 2) === end - at) return { start: at, end };
  return null;
}

function wholeBlock(
  page: Uint8Array,
  region: Region,
  own: Layout,
  { context, hints }: Searched
): Candidate | null {
  const cell = own.shape === 'keyed' ? oneCell(page, region, own, context) : null;
  if (cell && cell.score >= CERTAIN) return cell;
  const isLone = hints.blocks.has(region.start) && holdsOne(region, own);
  if (isLone && own.shape === 'bare') {
    const exact = clearlyBest(settled(filledAt(page, region, own, context), region, hints));
    if (exact && exact.score >= BELIEVED_ELSEWHERE && endsInRange(exact, page)) return exact;
  }
  // Entries of an index only help, and have fewer values to agree.
  const least = own.index ? BELIEVED_ELSEWHERE : BEYOND_DOUBT;
  const all = cell
    ? [cell, ...guessedAt(page, region, own, context)]
    : overwrittenAt(page, region, own, context);
  const filling = all.filter(({ end, cut }) => end >= region.end - MOST_LEFT_OVER && !cut);
  return isLone
    ? clearlyBest(settled(filling, region, hints))
    : clearlyBest(filling.filter(({ score }) => score >= least));
}

/** Times the shortest live cell below which a block is not two of them: freed ones can be somewhat shorter. */
const LESS_THAN_TWO = 1.75;

/** Whether a block is too short for two cells of its layout. */
function holdsOne({ start, end }: Region, { leastCell, rowsSeen }: Layout): boolean {
  return rowsSeen >= ENOUGH_ROWS && end - start < LESS_THAN_TWO * leastCell;
}

/** Whether the last value, the row number of an entry, is among those of live rows: a byte that was left behind would have made it another. */
function endsInRange({ layout, serials, end }: Candidate, page: Uint8Array): boolean {
  const last = serials.length - 1;
  const serial = serials[last]!;
  if (serial < 1 || serial > 9 || serial === 7) return false;
  const size = serialSize(serial);
  const value = size === 0 ? serial - 8 : Number(intBe(page, end - size, size));
  return suitsRange(layout, last, value) > 0;
}

/** The readings of a block that is one cell which are believed now that both of its ends are known. */
function settled(filling: Candidate[], region: Region, hints: Hints): Candidate[] {
  const isBelieved = ({ score }: Candidate): boolean => score >= BELIEVED - OWNER_BONUS;
  settleDoubts(filling, region, hints, isBelieved);
  return filling.filter(isBelieved);
}

/** Whether one of its texts holds what a later cell left there: then that one is to be looked for. */
function showsLaterWrite(cell: Candidate, page: Uint8Array, { encoding }: MatchContext): boolean {
  if (cell.verbatim) return false;
  return isOverwritten(cell, page.subarray(cell.bodyStart, cell.end), encoding);
}

function intactChain(searched: Searched, first: number, own: LayoutSet): Candidate[] | null {
  const chain: Candidate[] = [];
  for (let at = first; at < searched.region.end;) {
    const found = intactAt(searched, at, own).filter(
      ({ score, cut }) => score >= INTACT_BEYOND_DOUBT && !cut
    );
    const best = clearlyBest(found);
    if (!best) return null;
    chain.push(best);
    at = best.end;
  }
  return chain;
}

/** The reading with the most evidence; null where another place of the values is nearly as likely. */
function clearlyBest(found: Candidate[]): Candidate | null {
  const [best, second] = found.sort((a, b) => b.score - a.score);
  const isRivalled =
    best && second && second.bodyStart !== best.bodyStart && second.score > best.score - AHEAD;
  return best && !isRivalled ? best : null;
}
