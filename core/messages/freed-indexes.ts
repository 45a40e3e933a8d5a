import { GapFinder, NumberIndex, repeated, roomFor, sortedColumn, type PackedIndex } from '../host';
import { plainUnique, type FreedMessages, type PlainRows, type RecordCursor } from '../profiles';

/** What tells freed messages apart, a column each; NaN where it is unknown. */
export type FreedColumns = Pick<FreedMessages, 'moments' | 'rowids' | 'uniques'>;

/** The indexes of freed messages in a form that can be handed to another thread. */
export interface PackedFreed {
  byMoment: PackedIndex;
  byNumber: PackedIndex;
  byUnique: PackedIndex;
  sortedMoments: Float64Array;
  sortedNumbers: Float64Array;
}

/** Finds freed messages by what they share with a live one. */
export class FreedIndexes {
  readonly byMoment: NumberIndex;
  readonly byNumber: NumberIndex;
  readonly byUnique: NumberIndex;
  /** Live rows come by their numbers, and mostly by their times too. */
  private readonly moments: GapFinder;
  private readonly numbers: GapFinder;

  private constructor(private readonly packed: PackedFreed) {
    this.byMoment = new NumberIndex(packed.byMoment);
    this.byNumber = new NumberIndex(packed.byNumber);
    this.byUnique = new NumberIndex(packed.byUnique);
    this.moments = new GapFinder(packed.sortedMoments);
    this.numbers = new GapFinder(packed.sortedNumbers);
  }

  static of({ moments, rowids, uniques }: FreedColumns): FreedIndexes {
    return new FreedIndexes({
      byMoment: new NumberIndex(moments, roomFor).pack(),
      byNumber: new NumberIndex(rowids, roomFor).pack(),
      byUnique: new NumberIndex(uniques, roomFor).pack(),
      sortedMoments: sortedColumn(moments, roomFor),
      sortedNumbers: sortedColumn(rowids, roomFor)
    });
  }

  static unpack(packed: PackedFreed): FreedIndexes {
    return new FreedIndexes(packed);
  }

  pack(): PackedFreed {
    return this.packed;
  }

  /** Moments that several freed messages share. */
  sharedMoments(): ReadonlySet<number> {
    return repeated(this.packed.sortedMoments);
  }

  /** Whether a live row may have copies or earlier forms among the freed ones, or its unique value has to be decoded to tell. */
  concern(rows: PlainRows, cursor: RecordCursor, sentAt: number | null, rowid: number): boolean {
    const moment = sentAt ?? NaN;
    if (!this.moments.lacks(moment) && this.byMoment.find(moment) >= 0) return true;
    if (!this.numbers.lacks(rowid) && this.byNumber.find(rowid) >= 0) return true;
    if (rows.unique < 0) return false;
    const unique = plainUnique(rows, cursor);
    return unique !== null && (Number.isNaN(unique) || this.byUnique.find(unique) >= 0);
  }
}
