import { Parser } from 'htmlparser2';

/** What is told of a document's elements, in their order. */
export interface MarkupListener {
  /** @param at where the tag begins, in units of the text */
  open?(name: string, attributes: Record<string, string>, at: number): void;
  text?(part: string, at: number): void;
  /** @param end behind the last unit of what closed the element */
  close?(name: string, end: number): void;
}

/** Elements inside each other beyond which a document is none that anybody wrote. */
const DEEPEST = 1000;
/** Units that are read at a time, after which the depth is looked at. */
const STEP = 1 << 14;

/**
 * Reads XML or HTML, well formed or not. Of a document whose elements are
 * never closed only the beginning is read: the parser's time grows with the
 * square of the depth. Returns whether all of it was read.
 */
export function readMarkup(
  text: string,
  listener: MarkupListener,
  how: { isXml: boolean }
): boolean {
  let depth = 0;
  const parser: Parser = new Parser(
    {
      onopentag(name, attributes) {
        depth++;
        listener.open?.(name, attributes, parser.startIndex);
      },
      ontext: (part) => listener.text?.(part, parser.startIndex),
      onclosetag(name) {
        depth--;
        listener.close?.(name, parser.endIndex + 1);
      }
    },
    { decodeEntities: true, ...(how.isXml ? { xmlMode: true } : { lowerCaseTags: true }) }
  );
  let at = 0;
  for (; at < text.length && depth <= DEEPEST; at += STEP) parser.write(text.slice(at, at + STEP));
  parser.end();
  return at >= text.length;
}
