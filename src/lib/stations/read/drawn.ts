/** Characters of a body that are drawn at once; the rest is shown when it is asked for. */
export const MOST_DRAWN = 4000;

/** Marks over one letter that are drawn; more of them take long and hide the lines around. */
const PILED = /(\p{M}{8})\p{M}+/gu;

/** A text as it can be drawn quickly. What is stored, searched and produced stays whole. */
export function drawable(text: string): string {
  const short = text.length <= MOST_DRAWN ? text : text.slice(0, MOST_DRAWN).toWellFormed();
  return short.replace(PILED, '$1');
}
