import { NumberIndex, roomFor, type PackedIndex } from '../bytes';
import { plainUnique, type FreedMessages, type PlainRows, type RecordCursor } from '../stores';

/** What tells freed messages apart, a column each; NaN where it is unknown. */
export type FreedColumns = Pick<FreedMessages, 'moments' | 'rowids' | 'uniques'>;

/** The indexes of freed messages in a form that can be handed to another thread. */
export interface PackedFreed {
  byMoment: PackedIndex;
  byNumber: PackedIndex;
  byUnique: PackedIndex;
}

/** Finds freed messages by what they share with a live one. */
export class FreedIndexes {
  private constructor(
    readonly byMoment: NumberIndex,
    readonly byNumber: NumberIndex,
    readonly byUnique: NumberIndex
  ) {}

  static of({ moments, rowids, uniques }: FreedColumns): FreedIndexes {
    return new FreedIndexes(
      new NumberIndex(moments, roomFor),
      new NumberIndex(rowids, roomFor),
      new NumberIndex(uniques, roomFor)
    );
  }

  static unpack({ byMoment, byNumber, byUnique }: PackedFreed): FreedIndexes {
    return new FreedIndexes(
      new NumberIndex(byMoment),
      new NumberIndex(byNumber),
      new NumberIndex(byUnique)
    );
  }

  pack(): PackedFreed {
    const { byMoment, byNumber, byUnique } = this;
    return { byMoment: byMoment.pack(), byNumber: byNumber.pack(), byUnique: byUnique.pack() };
  }

  /** Whether a live row may have copies or earlier forms among the freed ones, or its unique value has to be decoded to tell. */
  concern(rows: PlainRows, cursor: RecordCursor, sentAt: number | null, rowid: number): boolean {
    if (this.byMoment.find(sentAt ?? NaN) >= 0 || this.byNumber.find(rowid) >= 0) return true;
    if (rows.unique < 0) return false;
    const unique = plainUnique(rows, cursor);
    return unique !== null && (Number.isNaN(unique) || this.byUnique.find(unique) >= 0);
  }
}
