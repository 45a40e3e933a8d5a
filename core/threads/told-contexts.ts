import type { BatchContext } from '../records';
import type { PlainRows, RecordCursor } from '../stores';
import { Contexts, type PackedContext } from './contexts';

/** What another thread was told of contexts. Rows ask for it in no order. */
export class ToldContexts {
  private readonly contexts = new Contexts();
  private readonly list: PackedContext[] = [];
  index = 0;
  linked = false;

  add(context: PackedContext): void {
    this.contexts.add(context);
    this.list.push(context);
  }

  /** Finds what is known of rows like this one; null where such a row has to be read as a message. */
  find(rows: PlainRows, cursor: RecordCursor, freed: boolean): BatchContext | null {
    const at = this.contexts.find(rows, cursor, freed);
    if (at < 0) return null;
    const { context, index, linked } = this.list[at]!;
    this.index = index;
    this.linked = linked;
    return context;
  }
}
