import { JsonBytes, type JsonFrame } from '../records';
import { plainTime, type PlainPlace, type PlainRows, type RecordCursor } from '../stores';
import { MessagePieces } from './message-pieces';

/** Writes live rows as JSON records straight from their bytes. */
export class LineWriter {
  readonly out = new JsonBytes();
  readonly pieces: MessagePieces;

  constructor(frame: JsonFrame, store: string, source: string) {
    this.pieces = new MessagePieces(frame, store, source);
  }

  /**
   * Writes one live row; `told` is its conversation, writer and direction.
   * False, with nothing written, when its text is not well formed.
   */
  live(
    rows: PlainRows,
    cursor: RecordCursor,
    place: PlainPlace,
    sentAt: number | null,
    told: Uint8Array
  ): boolean {
    const { out } = this;
    const before = out.length;
    const pieces = this.pieces.live(rows.name, place.file);
    out.raw(pieces.begin);
    out.integer(place.rowid);
    out.raw(told);
    if (!this.values(out, rows, cursor, sentAt)) {
      out.length = before;
      return false;
    }
    out.raw(pieces.state);
    out.integer(place.rowid);
    out.raw(pieces.proof);
    this.place(place);
    out.raw(pieces.end);
    return true;
  }

  /** Times and text of a record. */
  values(out: JsonBytes, rows: PlainRows, cursor: RecordCursor, sentAt: number | null): boolean {
    const { pieces } = this;
    out.time(sentAt);
    const deliveredAt = plainTime(rows.deliveredAt, cursor, rows);
    const readAt = plainTime(rows.readAt, cursor, rows);
    if (deliveredAt === null && readAt === null) out.raw(pieces.timeless);
    else {
      out.raw(pieces.deliveredAt);
      out.time(deliveredAt);
      out.raw(pieces.readAt);
      out.time(readAt);
      out.raw(pieces.body);
    }
    const { starts, bytes } = cursor;
    return out.text(bytes, starts[rows.body]!, starts[rows.body + 1]!, rows.encoding);
  }

  /** Where on a page a record lies. */
  place({ page, offset, length }: Pick<PlainPlace, 'page' | 'offset' | 'length'>): void {
    const { out, pieces } = this;
    out.integer(page);
    out.raw(pieces.offset);
    out.integer(offset);
    out.raw(pieces.length);
    out.integer(length);
  }
}
