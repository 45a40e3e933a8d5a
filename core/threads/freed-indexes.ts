import { NumberIndex } from '../bytes';
import { plainUnique, type FreedMessages, type PlainRows, type RecordCursor } from '../stores';

/** What tells freed messages apart, a column each; NaN where it is unknown. */
export type FreedColumns = Pick<FreedMessages, 'moments' | 'rowids' | 'uniques'>;

/** Finds freed messages by what they share with a live one. */
export class FreedIndexes {
  readonly byMoment: NumberIndex;
  readonly byNumber: NumberIndex;
  readonly byUnique: NumberIndex;

  constructor({ moments, rowids, uniques }: FreedColumns) {
    this.byMoment = new NumberIndex(moments);
    this.byNumber = new NumberIndex(rowids);
    this.byUnique = new NumberIndex(uniques);
  }

  /** Whether a live row may have copies or earlier forms among the freed ones, or its unique value has to be decoded to tell. */
  concern(rows: PlainRows, cursor: RecordCursor, sentAt: number | null, rowid: number): boolean {
    if (this.byMoment.find(sentAt ?? NaN) >= 0 || this.byNumber.find(rowid) >= 0) return true;
    if (rows.unique < 0) return false;
    const unique = plainUnique(rows, cursor);
    return unique !== null && (Number.isNaN(unique) || this.byUnique.find(unique) >= 0);
  }
}
