/** Words of a line that are marked with the pointer or the keyboard. */
export interface MarkedWords {
  /** Place of the line in its conversation. */
  index: number;
  text: string;
  /** What stands before them in the line's body, as it is drawn. */
  before: string;
}

/** The words marked last; they stay marked while the margin is used. */
class Marked {
  words = $state.raw<MarkedWords | null>(null);

  read(): void {
    const found = markedIn(document.getSelection());
    if (found) this.words = found;
  }
}

export const marked = new Marked();

function markedIn(selection: Selection | null): MarkedWords | null {
  if (!selection || selection.isCollapsed || selection.rangeCount === 0) return null;
  const range = selection.getRangeAt(0);
  const body = bodyOf(range.startContainer);
  if (!body || body !== bodyOf(range.endContainer)) return null;
  const index = Number(/^line-(\d+)$/.exec(body.closest('article')?.id ?? '')?.[1] ?? NaN);
  if (Number.isNaN(index)) return null;
  const head = document.createRange();
  head.setStart(body, 0);
  head.setEnd(range.startContainer, range.startOffset);
  const text = range.toString();
  const bare = text.trim();
  if (bare === '') return null;
  // A double click takes the blank behind a word along.
  const blank = text.slice(0, text.indexOf(bare));
  return { index, text: bare, before: head.toString() + blank };
}

function bodyOf(node: Node): Element | null {
  const element = node instanceof Element ? node : node.parentElement;
  return element?.closest('.body') ?? null;
}
