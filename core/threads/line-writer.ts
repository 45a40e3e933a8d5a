import { JsonBytes, type JsonFrame, type Piece } from '../records';
import {
  certaintyOf,
  plainTime,
  surroundings,
  type FreedFacts,
  type LiveBounds,
  type PlainPlace,
  type PlainRows,
  type RecordCursor
} from '../stores';
import { MessagePieces } from './message-pieces';

/** Writes ordinary rows as JSON records straight from their bytes. */
export class LineWriter {
  readonly out = new JsonBytes();
  private readonly pieces: MessagePieces;

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
    told: Piece
  ): boolean {
    const { out } = this;
    const before = out.length;
    const pieces = this.pieces.live(rows.name, place.file);
    out.piece(pieces.begin);
    out.integer(place.rowid);
    out.piece(told);
    if (!this.values(rows, cursor, sentAt)) {
      out.length = before;
      return false;
    }
    out.piece(pieces.state);
    out.integer(place.rowid);
    out.piece(pieces.proof);
    this.place(place);
    out.piece(pieces.end);
    return true;
  }

  /** The same for a freed row of that id, judged by the live rows around it; `linked` says whether its conversation has some. */
  freed(
    rows: PlainRows,
    cursor: RecordCursor,
    facts: FreedFacts,
    { id, sentAt, told, bounds, linked }: FreedLine
  ): boolean {
    const { out, pieces } = this;
    const before = out.length;
    out.piece(pieces.open);
    if (id === null) {
      out.piece(pieces.idOf(rows.name, facts.proofs[0]!.file));
      out.hex(facts.proofs[0]!.offset);
      out.piece(pieces.quote);
    } else out.string(id);
    out.piece(told);
    if (!this.values(rows, cursor, sentAt)) {
      out.length = before;
      return false;
    }
    const around = surroundings(bounds, linked, sentAt);
    out.piece(pieces.recovered);
    out.integer(certaintyOf(facts.score, around));
    out.piece(pieces.reasonsOpen);
    const { before: begin, after, hasNumber } = pieces.reasons(facts, bounds.columns, around);
    out.piece(begin);
    if (hasNumber) out.integer(Number(facts.rowid));
    out.piece(after);
    this.proofs(facts.proofs);
    return true;
  }

  private proofs(proofs: FreedFacts['proofs']): void {
    const { out, pieces } = this;
    for (let i = 0; i < proofs.length; i++) {
      const proof = proofs[i]!;
      out.piece(i === 0 ? pieces.proofs : pieces.comma);
      out.piece(pieces.proofOf(proof.file));
      this.place(proof);
      out.piece(pieces.methodOf(proof.method));
    }
    out.piece(pieces.rest);
  }

  /** Times and text of a record. */
  private values(rows: PlainRows, cursor: RecordCursor, sentAt: number | null): boolean {
    const { out, pieces } = this;
    out.time(sentAt);
    const deliveredAt = plainTime(rows.deliveredAt, cursor, rows);
    const readAt = plainTime(rows.readAt, cursor, rows);
    if (deliveredAt === null && readAt === null) out.piece(pieces.timeless);
    else {
      out.piece(pieces.deliveredAt);
      out.time(deliveredAt);
      out.piece(pieces.readAt);
      out.time(readAt);
      out.piece(pieces.body);
    }
    const { starts, bytes } = cursor;
    return out.text(bytes, starts[rows.body]!, starts[rows.body + 1]!, rows.encoding);
  }

  /** Where on a page a record lies. */
  private place({ page, offset, length }: Pick<PlainPlace, 'page' | 'offset' | 'length'>): void {
    const { out, pieces } = this;
    out.integer(page);
    out.piece(pieces.offset);
    out.integer(offset);
    out.piece(pieces.length);
    out.integer(length);
  }
}

/** What is told of a freed row beside its own values. */
interface FreedLine {
  /** Null where it follows from its place. */
  id: string | null;
  sentAt: number | null;
  /** Conversation, writer and direction. */
  told: Piece;
  bounds: LiveBounds;
  linked: boolean;
}
