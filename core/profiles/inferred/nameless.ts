import type { Context, FoundParties } from './context';
import type { Field } from './fields';
import { isNameless, mostlyAddresses } from './links';

/** Texts that are long enough to be somebody's own words. */
const LONG = 12;
/** Share of the long texts that differ where people write; labels and titles stand again. */
const DIFFERENT = 0.85;

/**
 * Where the names of a table's columns are lost, only values speak: whether
 * they are those of a conversation and of nothing else that has texts and
 * times.
 */
export function readsWithoutNames(
  context: Context,
  text: Field,
  found: FoundParties,
  isDirected: boolean
): boolean {
  const { fields, tables, links } = context;
  const own = fields.filter(({ hops, isInside }) => hops === 0 && !isInside);
  if (!own.some(({ name }) => isNameless(name))) return true;
  if (own.some((field) => isPlace(field) || (field !== text && isTalk(field)))) return false;
  const parties = partiesOf(found);
  const addressed = isAddressed(context, found);
  const linked = parties.some((field) => leadsToPeople(field, tables, links));
  if (addressed || linked) return isDirected || !isTitled(text);
  return isDirected && parties.length > 0 && isVaried(text) && !isTitled(text);
}

function partiesOf({ sender, peer, recipient, room }: FoundParties): Field[] {
  return [sender, peer, recipient, room].filter((field) => field !== null);
}

/** Whether the same addresses stand in many rows, as those of people who write to each other do. */
export function isAddressed({ root }: Context, found: FoundParties): boolean {
  return partiesOf(found).some(
    ({ facts }) => mostlyAddresses(facts) && isRepeated(facts, root.rows.length)
  );
}

/** Whether a column's numbers are those of a table with addresses in it. */
function leadsToPeople(
  { table, name }: Field,
  tables: Context['tables'],
  links: Context['links']
): boolean {
  return links.some(
    ({ from, column, to }) =>
      from === table && column === name && tables.get(to)!.columns.some(mostlyAddresses)
  );
}

function isRepeated({ distinct, filled }: Field['facts'], rows: number): boolean {
  return filled >= rows * 0.3 && distinct <= filled * 0.7;
}

/** Another column that reads like sentences in most rows: a summary, a translation, a mail. */
function isTalk({ facts }: Field): boolean {
  return facts.filled >= facts.rows * 0.6 && (facts.wording?.score ?? 0) >= 0.75;
}

/** Nearly all begin with a capital and none ends a sentence: what things are called. */
function isTitled({ values }: Field): boolean {
  const texts = values.filter((v): v is string => typeof v === 'string' && v.length > LONG);
  if (texts.length < 20) return false;
  const capital = texts.filter((t) => /^\P{L}*\p{Lu}/u.test(t)).length;
  const ended = texts.filter((t) => /[.?!…]|\p{Emoji_Presentation}/u.test(t)).length;
  return capital >= texts.length * 0.97 && ended <= texts.length * 0.03;
}

function isVaried({ values }: Field): boolean {
  const texts = values.filter((v): v is string => typeof v === 'string' && v.length > LONG);
  return texts.length === 0 || new Set(texts).size >= texts.length * DIFFERENT;
}

/** Addresses of pages, and paths of files, in most rows. */
function isPlace({ values, facts }: Field): boolean {
  if (facts.texts < facts.rows * 0.7) return false;
  const places = values.filter(
    (v) => typeof v === 'string' && /^(?:\w+:\/\/|\/|content:)|\/[^/\s]+\.[a-z]\w{1,4}$/i.test(v)
  );
  return places.length >= facts.texts * 0.8;
}
