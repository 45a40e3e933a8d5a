import type { Piece } from '../records';
import type { PlainRows, RecordCursor } from '../stores';
import { Contexts, grown, type PackedContext } from './contexts';

/** Numbers that are kept of each context: its words' place and length in bytes, its index, and whether its conversation has live lines. */
const FACTS = 4;

/**
 * What another thread was told of contexts. Rows ask for it in no order:
 * columns and words lie close together so that they stay at hand.
 */
export class ToldContexts {
  private readonly contexts = new Contexts();
  private count = 0;
  private facts = new Int32Array(64 * FACTS);
  private used = 0;
  /** What was found last: conversation, writer and direction. */
  readonly told: Piece = { words: new Float64Array(1024), from: 0, length: 0 };
  index = 0;
  linked = false;

  add(context: PackedContext): void {
    this.contexts.add(context);
    const { told, index, linked } = context;
    const at = FACTS * this.count++;
    if (at === this.facts.length) this.facts = grown(this.facts, new Int32Array(at * 2));
    this.facts.set([this.used, told?.length ?? -1, index, linked ? 1 : 0], at);
    if (told) this.keep(told);
  }

  private keep({ words, from, length }: Piece): void {
    const own = words.subarray(from, from + Math.ceil(length / 8));
    const end = this.used + own.length;
    if (end > this.told.words.length)
      this.told.words = grown(this.told.words, new Float64Array(end * 2));
    this.told.words.set(own, this.used);
    this.used = end;
  }

  /** Finds what is known of rows like this one; false where such a row has to be read as a message. */
  find(rows: PlainRows, cursor: RecordCursor, freed: boolean): boolean {
    const at = FACTS * this.contexts.find(rows, cursor, freed);
    if (at < 0 || this.facts[at + 1]! < 0) return false;
    this.told.from = this.facts[at]!;
    this.told.length = this.facts[at + 1]!;
    this.index = this.facts[at + 2]!;
    this.linked = this.facts[at + 3] === 1;
    return true;
  }
}
