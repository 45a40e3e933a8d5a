// Controls but tab and line ends, marks that turn the writing direction around, lone surrogates, noncharacters.
const HIDDEN =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** Text in which what a reader could not see, and what could make it read as another, stands as its code point. */
export function visible(text: string): string {
  return text.replace(HIDDEN, (char) => {
    const code = char.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0');
    return `[U+${code}]`;
  });
}
