import { messageJson } from '../convert';
import { JsonBytes, pieceOf, utf8, type JsonFrame, type Piece } from '../json-bytes';
import { STATES } from '../model';
import { messageAt } from './read';
import type { BatchContext, IdForm, MessageBatch, ProofForm, ReasonForm } from './model';

const NOTHING_MORE = '"attachments":[],"replyTo":null,"reactions":[],"location":null}';

interface ReasonPieces {
  before: Piece;
  after: Piece;
  hasNumber: boolean;
}

interface ProofPieces {
  before: Piece;
  after: Piece;
}

/** Pieces that were made of what comes again in batches. */
class Pieces<From extends object, To> {
  private known = new Map<From, To>();

  constructor(private readonly make: (from: From) => To) {}

  of(list: readonly From[]): To[] {
    if (this.known.size > MOST_KNOWN) this.known.clear();
    return list.map((from) => {
      let to = this.known.get(from);
      if (to === undefined) this.known.set(from, (to = this.make(from)));
      return to;
    });
  }
}

const MOST_KNOWN = 50_000;

/** Writes batches as JSON records, each as `messageJson` writes it, in a frame. */
export class BatchJson {
  private readonly deliveredAt = pieceOf(',"deliveredAt":');
  private readonly readAt = pieceOf(',"readAt":');
  private readonly body = pieceOf(',"body":');
  private readonly timeless = pieceOf(',"deliveredAt":null,"readAt":null,"body":');
  private readonly page = pieceOf(',"offset":');
  private readonly offset = pieceOf(',"length":');
  private readonly none = pieceOf('null');
  private readonly reasons = pieceOf(',"reasons":[');
  private readonly proofs = pieceOf('],"proofs":[');
  private readonly comma = pieceOf(',');
  private readonly rest: Piece;
  private readonly states = STATES.map((state) =>
    pieceOf(`,"subject":null,"state":"${state}","purgeAt":null,"replaces":null,"certainty":`)
  );
  private readonly ids: Pieces<IdForm, Piece>;
  private readonly contexts = new Pieces<BatchContext, Piece>(contextPiece);
  private readonly reasonPieces = new Pieces<ReasonForm, ReasonPieces>((form) => ({
    before: pieceOf(form.before),
    after: pieceOf(form.after),
    hasNumber: form.hasNumber
  }));
  private readonly proofPieces = new Pieces<ProofForm, ProofPieces>(({ source, path, method }) => ({
    before: pieceOf(`{"source":${JSON.stringify(source)},"path":${JSON.stringify(path)},"page":`),
    after: pieceOf(`,"method":"${method}"}`)
  }));

  constructor(private readonly frame: JsonFrame) {
    this.rest = pieceOf(`],${NOTHING_MORE}${frame.after}`);
    const open = `${frame.before}"id":"`;
    this.ids = new Pieces(({ prefix }) => pieceOf(open + JSON.stringify(prefix).slice(1, -1)));
  }

  write(batch: MessageBatch, out: JsonBytes): void {
    const { lines, texts, origins } = batch;
    const ids = this.ids.of(texts.idForms);
    const contexts = this.contexts.of(lines.contexts);
    const reasons = this.reasonPieces.of(origins.reasonForms);
    const proofs = this.proofPieces.of(origins.proofForms);
    const { extras } = texts;
    let extra = 0;
    for (let i = 0; i < batch.count; i++) {
      if (extra < extras.length && extras[extra]![0] === i) {
        extra++;
        this.long(batch, i, out);
        continue;
      }
      out.piece(ids[texts.idForm[i]!]!);
      this.number(texts.idForms[texts.idForm[i]!]!, texts.idNumber[i]!, out);
      out.piece(contexts[lines.context[i]!]!);
      out.time(lines.sentAt[i]!);
      this.times(origins.deliveredAt[i]!, origins.readAt[i]!, out);
      out.text(texts.text, i === 0 ? 0 : texts.ends[i - 1]!, texts.ends[i]!);
      out.piece(this.states[lines.state[i]!]!);
      out.integer(lines.certainty[i]!);
      out.piece(this.reasons);
      const { before, after, hasNumber } = reasons[origins.reasonForm[i]!]!;
      out.piece(before);
      if (hasNumber) out.integer(origins.reasonNumber[i]!);
      out.piece(after);
      out.piece(this.proofs);
      this.proofsOf(batch, i, proofs, out);
      out.piece(this.rest);
    }
  }

  private number({ number }: IdForm, value: number, out: JsonBytes): void {
    if (number === 'decimal') out.integer(value);
    else if (number === 'hexadecimal') out.hex(value);
  }

  private times(deliveredAt: number, readAt: number, out: JsonBytes): void {
    if (Number.isNaN(deliveredAt) && Number.isNaN(readAt)) return out.piece(this.timeless);
    out.piece(this.deliveredAt);
    out.time(deliveredAt);
    out.piece(this.readAt);
    out.time(readAt);
    out.piece(this.body);
  }

  private proofsOf(
    { origins }: MessageBatch,
    i: number,
    pieces: readonly ProofPieces[],
    out: JsonBytes
  ): void {
    const { proofEnds, proofForm, page, offset, length } = origins;
    const first = i === 0 ? 0 : proofEnds[i - 1]!;
    for (let at = first; at < proofEnds[i]!; at++) {
      if (at > first) out.piece(this.comma);
      const { before, after } = pieces[proofForm[at]!]!;
      out.piece(before);
      if (page[at] === 0) out.piece(this.none);
      else out.integer(page[at]!);
      out.piece(this.page);
      out.integer(offset[at]!);
      out.piece(this.offset);
      out.integer(length[at]!);
      out.piece(after);
    }
  }

  /** A record that says more than most. */
  private long(batch: MessageBatch, i: number, out: JsonBytes): void {
    const { before, after } = this.frame;
    out.raw(utf8(before + messageJson(messageAt(batch, i)).slice(1) + after));
  }
}

/** What follows the id of a record, with its closing quote. */
function contextPiece({ thread, sender, direction }: BatchContext): Piece {
  return pieceOf(
    `","thread":${JSON.stringify(thread)},"sender":${JSON.stringify(sender)},"direction":"${direction}","sentAt":`
  );
}
