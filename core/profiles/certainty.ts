import type { FreedFacts } from '../sqlite';

/** How well a recovered row is supported, with the reasons in plain words. */
export interface Judgement {
  certainty: number;
  reasons: string[];
}

/** What the store around a recovered row says of it; null where it says nothing. */
export interface Surroundings {
  /** The conversation that the row names has live lines. */
  isLinked: true | null;
  /** Its time lies within those of live rows. */
  isInTime: boolean | null;
}

/** What live rows show of a table, to hold freed ones against. */
export interface LiveBounds {
  columns: number;
  /** Whether there are live rows. */
  known: boolean;
  /** First and last moment of them. */
  from: number;
  to: number;
}

/** What the live rows say of a freed one; `isLinked` tells whether its conversation has live lines. */
export function surroundings(
  { known, from, to }: LiveBounds,
  isLinked: boolean,
  sentAt: number | null
): Surroundings {
  if (!known) return NOTHING_KNOWN;
  const isInTime = sentAt === null ? null : sentAt >= from && sentAt <= to;
  // A conversation of which no line is live is no evidence against: it may have been deleted whole.
  return { isLinked: isLinked ? true : null, isInTime };
}

/** Bits that agreement with the surroundings gives, or a time out of place takes. */
const LINKED = 4;
const IN_TIME = 3;
const OUT_OF_TIME = -6;
/** Bits that halve the remaining doubt. */
const HALVES = 15;
/** A text that is cut may have said more. */
export const MOST_CUT = 80;

export function lostAtEnd({ bytes }: { bytes: number }): string {
  return `${bytes} bytes at the end are lost`;
}

/**
 * Evidence in bits, from the file's structure and from what stands around the
 * row, becomes a number from 0 to 99: every 15 bits halve the remaining
 * doubt, starting from one half (docs/certainty.md).
 */
export function judgeRow(
  row: FreedFacts,
  columns: number,
  { isLinked, isInTime }: Surroundings = NOTHING_KNOWN
): Judgement {
  const certainty = certaintyOf(row.score, { isLinked, isInTime });
  const reasons = [
    row.lost.length > 0
      ? `header and ${columns - row.lost.length} of ${columns} columns agree with table ${row.table}`
      : `header and ${columns} columns agree with table ${row.table}`
  ];
  if (row.rebuilt > 0)
    reasons.push(`first ${row.rebuilt} bytes of the cell were overwritten and rebuilt`);
  if (row.rowid !== null) reasons.push(rowNumberReason(row));
  if (row.proofs.length > 1) reasons.push(`found in ${row.proofs.length} places`);
  if (isLinked) reasons.push('its conversation has live lines');
  if (isInTime !== null)
    reasons.push(
      isInTime
        ? 'its time lies among those of live rows'
        : 'its time lies outside those of live rows'
    );
  if (row.cut) reasons.push(lostAtEnd(row.cut));
  return { certainty: row.cut ? Math.min(certainty, MOST_CUT) : certainty, reasons };
}

/** The certainty of a row that is not cut, by its evidence in bits and by what stands around it. */
export function certaintyOf(score: number, { isLinked, isInTime }: Surroundings): number {
  const link = isLinked ? LINKED : 0;
  const time = isInTime === null ? 0 : isInTime ? IN_TIME : OUT_OF_TIME;
  const doubt = 0.5 * 2 ** (-(score + link + time) / HALVES);
  return Math.max(1, Math.min(99, Math.round(100 * (1 - doubt))));
}

const NOTHING_KNOWN: Surroundings = { isLinked: null, isInTime: null };

/** Begins the reason that tells how a row number is known. */
export const ROW_NUMBER = 'row number';

function rowNumberReason({ rowid, inferred }: FreedFacts): string {
  return inferred
    ? `${ROW_NUMBER} ${rowid} fills the gap between its neighbours`
    : `${ROW_NUMBER} ${rowid} was read`;
}
