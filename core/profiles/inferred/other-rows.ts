import type { SqlValue } from '../../sqlite';
import type { RowTest } from '../profile';
import { type Context, type Fit, nameOf, plainName } from './context';
import type { Field } from './fields';

/** Kinds of rows at most, and the share that what people wrote has at least. */
const MOST_KINDS = 16;
const LEAST_MAIN = 0.4;

/**
 * Rows of the table that are no messages: kinds whose texts are a program's,
 * or that say something of another row. They are lines of the program.
 */
export function findOtherRows(
  context: Context,
  text: Field,
  roles: readonly (Field | null)[],
  fit: Fit
): RowTest[] {
  const { fields } = context;
  const found: RowTest[] = [];
  for (const field of fields) {
    const { distinct, rows, filled, blobs, clock } = field.facts;
    if (field.hops > 0 || roles.includes(field) || blobs > 0 || clock) continue;
    if (STATE.test(plainName(field.name))) continue;
    if (distinct < 2 || distinct > MOST_KINDS || filled < rows * 0.9) continue;
    const kinds = kindsOf(field);
    const [main] = [...kinds].sort((a, b) => b[1].length - a[1].length);
    if (!main || main[1].length < rows * LEAST_MAIN) continue;
    // Where people themselves write the same few texts, these tell nothing of a kind.
    const isVaried = !isProgram(main[1], text);
    const others = [...kinds]
      .filter(([kind]) => kind !== main[0])
      .filter(
        ([, at]) => (isVaried && isProgram(at, text)) || refersOnly(at, main[1], context, text)
      )
      .map(([kind]) => kind);
    if (others.length === 0) continue;
    found.push({ value: field.expression, is: others });
    fit.reasons.push(
      `rows whose ${nameOf(field)} is ${others.join(' or ')} are none that people wrote`
    );
  }
  return found;
}

/** What became of a message says nothing of what it is. */
const STATE =
  /(status|state|(^|_)ack|deliver|receipt|read|seen|sent|progress|error|retry|star|pin|favo|flag$|flags$)/;

function kindsOf({ values }: Field): Map<string, number[]> {
  const kinds = new Map<string, number[]>();
  values.forEach((value, i) => {
    const key = value === null ? '' : String(value);
    const list = kinds.get(key);
    if (list) list.push(i);
    else kinds.set(key, [i]);
  });
  return kinds;
}

const LEAST_KIND = 3;

/** Texts that are few, or filled in: without names and numbers they are the same few. */
function isProgram(at: readonly number[], text: Field): boolean {
  const texts = at.flatMap((i) => {
    const value = text.values[i];
    return typeof value === 'string' && value !== '' ? [value] : [];
  });
  if (texts.length < LEAST_KIND) return false;
  const forms = new Set(texts.map(formOf));
  return forms.size <= Math.max(2, texts.length * 0.25) && texts.every((t) => t.length < LONGEST);
}

/** Longer texts are no line of a program, be they in markup. */
const LONGEST = 600;

/** A text without its numbers, ids and capitalised words. */
function formOf(text: string): string {
  // Words first, then whether there is a digit in one: a search for both at once tries each letter of a long word.
  const bare = text.replace(/[\w-]+/g, (word) => (/\d/.test(word) ? '#' : word));
  return bare.replace(/\p{Lu}[\p{L}\p{M}]*/gu, '@');
}

const REFERENCE = /(target|ref|orig|repl(?!y)|edit|revis|delet|super|retract)/i;
const ANSWER = /(reply|quot|answer|thread|respon)/i;

/** Whether a column of row numbers is filled in these rows and in none of the main ones, and its name, or the texts, say that they change what they name. */
function refersOnly(
  at: readonly number[],
  main: readonly number[],
  { fields, root, rows }: Context,
  text: Field
): boolean {
  if (at.length < LEAST_KIND) return false;
  return fields.some(({ values, hops, name, facts }) => {
    if (hops > 0 || ANSWER.test(name) || facts.clock) return false;
    const isFilled = (i: number): boolean =>
      values[i] !== null && values[i] !== 0 && values[i] !== '';
    if (at.filter(isFilled).length < at.length * 0.9) return false;
    if (main.filter(isFilled).length > main.length * 0.02) return false;
    return REFERENCE.test(name) || repeats(at, values, text, root.rows, root.index(rows.key));
  });
}

/** Letters at the beginning that an edited text shares with what it was. */
const SHARED = 8;

/** Whether most texts begin like those of the rows that a column names. */
function repeats(
  at: readonly number[],
  named: readonly SqlValue[],
  text: Field,
  rows: readonly SqlValue[][],
  key: number
): boolean {
  const places = new Map(rows.map((row, i) => [String(key < 0 ? i + 1 : row[key]), i]));
  const alike = at.filter((i) => {
    const target = places.get(String(named[i]));
    const [own, before] = [text.values[i], target === undefined ? null : text.values[target]];
    return (
      typeof own === 'string' &&
      typeof before === 'string' &&
      own.startsWith(before.slice(0, SHARED))
    );
  });
  return alike.length >= at.length * 0.6;
}
