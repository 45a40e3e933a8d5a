import { lookUp, type Expression } from '../profile';
import type { Context } from './context';
import type { Field } from './fields';

/** A name on a line of its own before the text. */
const PREFIX = '^([^\\s:]{3,80}):\\r?\\n';
/** Share of the texts that have one, at least; in conversations of two nobody is named. */
const LEAST_SHARE = 0.03;
const LEAST_TEXTS = 5;
/** Share of the names that must be those of people that the store knows. */
const KNOWN = 0.9;

/** Who wrote and what, where a text begins with its writer's name. */
export interface Prefixed {
  sender: Expression;
  body: Expression;
}

/**
 * Some stores write who spoke in a group before the text, on a line of its
 * own. The names must be known by another table or as conversations, for
 * people write lists like that too.
 */
export function prefixOf(
  { tables, root }: Context,
  text: Field,
  room: Field | null
): Prefixed | null {
  const pattern = new RegExp(PREFIX);
  const names = text.values.flatMap((v) =>
    typeof v === 'string' ? (pattern.exec(v)?.[1] ?? []) : []
  );
  if (names.length < Math.max(LEAST_TEXTS, text.facts.filled * LEAST_SHARE)) return null;
  const isKnown = (known: ReadonlySet<string>): boolean =>
    names.filter((name) => known.has(name)).length >= names.length * KNOWN;
  const name: Expression = { match: text.expression, pattern: PREFIX };
  const without: Expression = { without: text.expression, pattern: PREFIX };
  for (const table of tables.values()) {
    if (table === root) continue;
    const key = table.keys.find((column) => isKnown(table.valuesOf(column)));
    if (key === undefined) continue;
    const sender = lookUp(table.name, key, name, { column: key });
    const body = [{ when: { value: sender, present: true }, then: without }, text.expression];
    return { sender, body: { first: body } };
  }
  return room && isKnown(new Set(room.values.map(String))) ? { sender: name, body: without } : null;
}
