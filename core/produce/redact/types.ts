/** A stretch of a text, in UTF-16 units with the end exclusive, that a bar takes the place of. */
export interface Span {
  from: number;
  to: number;
  code: string;
}

/** A text that stands in a file, in whatever encoding or packing. */
export interface DecodedText {
  /** Where in the file, in words; empty for the file itself. */
  where: string;
  /** Null where a part cannot be read here: whatever is covered may stand in it. */
  text: string | null;
}
