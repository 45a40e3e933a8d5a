/** Where marked words stand in a body, in UTF-16 units; null where they are not in it. */
export function placeIn(
  body: string,
  { text, before }: { text: string; before: string }
): { from: number; to: number } | null {
  if (text === '') return null;
  // Where a file belongs, another sign of the same length is drawn.
  const drawn = body.replaceAll('\ufffc', '\u2060');
  // Where the drawn text is the stored one, the place is told by what stands before.
  const from = drawn.startsWith(before + text) ? before.length : drawn.indexOf(text);
  return from < 0 ? null : { from, to: from + text.length };
}
