/** Who wrote an entry, as a mark in its line says. */
export type LogSide = 'incoming' | 'outgoing';

/** Marks that stand for the two sides, what came in first. */
const PAIRS: [string, string][] = [
  ['<', '>'],
  ['<<', '>>'],
  ['<-', '->'],
  ['<=', '=>'],
  ['←', '→'],
  ['in', 'out'],
  ['i', 'o'],
  ['r', 's'],
  ['rx', 'tx'],
  ['recv', 'sent'],
  ['rcvd', 'sent'],
  ['received', 'sent'],
  ['incoming', 'outgoing'],
  ['from', 'to'],
  ['inbound', 'outbound']
];

const MARK = /^[[(]?(<<|>>|<-|->|<=|=>|[<>←→]|[a-z]{1,8})[\])]?(?:[\s|:]+|$)/i;

/** A line with the mark at its beginning, and what stands behind it. */
export interface Flagged {
  mark: string;
  rest: string;
}

/** The mark at the beginning of a text that may say who wrote; null where none stands. */
export function flagAt(text: string): Flagged | null {
  // A name in brackets is no mark.
  if (/^<\s?[^<>\s]{1,64}>/.test(text)) return null;
  const found = MARK.exec(text);
  if (!found) return null;
  const mark = found[1]!.toLowerCase();
  return PAIRS.some((pair) => pair.includes(mark))
    ? { mark, rest: text.slice(found[0].length) }
    : null;
}

/** Share of the entries that must carry a mark for it to be one. */
const MOSTLY = 0.9;

/** Which mark means what, where the marks of nearly all entries are those of one pair; else null. */
export function sidesOf(marks: readonly (string | null)[]): Map<string, LogSide> | null {
  for (const [into, out] of PAIRS) {
    const fitting = marks.filter((mark) => mark === into || mark === out).length;
    if (marks.length < 2 || fitting < marks.length * MOSTLY) continue;
    return new Map([
      [into, 'incoming'],
      [out, 'outgoing']
    ]);
  }
  return null;
}
