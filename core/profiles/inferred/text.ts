import { type Context, type Fit, nameOf, plainName } from './context';
import type { Field } from './fields';
import { isHeading, isLabel, otherReading } from './readings';

const LEAST_ROWS = 3;
export const LEAST_WORDING = 0.4;

const TEXT_NAME = /(body|text|message|msg|content|txt|plain|markup|data|payload)/i;
const NOT_TEXT =
  /(title|subject|name|alias|url|path|file|preview|snippet|error|status|quote|raw|json|header|caption|description|label|search|fts|organi[sz]ation|company|address|nick|sender|author|(^|_)type)/i;

/** Texts of which more than this are names are those of people and things. */
const MOST_NAMED = 0.75;

/** The column that reads like what people write; with `anyway` also in a table that looks like something else. */
export function findText({ root, fields }: Context, fit: Fit, anyway = false): Field | null {
  const scored = fields
    .flatMap((field) => {
      const { wording, filled, rows } = field.facts;
      if (!wording || wording.score < LEAST_WORDING || filled < LEAST_ROWS) return [];
      if (isHeading(field.name) && !anyway) return [];
      if (wording.named > MOST_NAMED) return [];
      const name = plainName(field.name);
      const named = TEXT_NAME.test(name) ? 0.25 : 0;
      const other = NOT_TEXT.test(name) ? 0.3 : 0;
      const full = 0.2 * (filled / Math.max(1, rows));
      // What stands in the row itself is not looked for in rows beside it.
      const beside = field.isInside && field.hops > 0 ? 0.05 : 0;
      const far = beside + 0.15 * (field.isInside ? Math.max(0, field.hops - 1) : field.hops);
      const form = isFilledIn(field) ? 0.3 : 0;
      const score = wording.score + named - other + full - far - form - 0.4 * wording.named;
      return [{ field, score }];
    })
    .sort((a, b) => b.score - a.score);
  const [first, second] = scored;
  if (!first || first.score < LEAST_WORDING) return null;
  const { field } = first;
  if (isLabel(field, fields)) return null;
  // A table of conversations has a line of each; what people wrote differs from row to row.
  if (field.hops > 0 && !field.isInside && isRepeated(field)) return null;
  if (otherReading(root) && !anyway) return null;
  const close =
    second !== undefined &&
    second.score > first.score - 0.15 &&
    second.field.hops === field.hops &&
    !second.field.isInside;
  const share = Math.round(field.facts.wording!.score * 100);
  const beside = close ? `, and so does ${nameOf(second.field)}` : '';
  fit.add(
    Math.min(30, 30 * Math.min(1, first.score)) - (close ? 12 : 0),
    `${nameOf(field)} reads like text that people write (${share} of 100)${beside}`
  );
  return field;
}

/**
 * The same few texts over and over, whatever the numbers in them: what a
 * program fills in, unless parties write them to each other.
 */
export function isFilledIn({ facts }: Field): boolean {
  return facts.filled >= 40 && facts.wording!.forms < 0.2;
}

function isRepeated({ facts }: Field): boolean {
  return facts.distinct < facts.filled * 0.5;
}
