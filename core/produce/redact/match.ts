import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import { placedReadingsOf } from './escapes';
import type { Span } from './types';
import { normalForm, normalText, type NormalText } from './normal';

/** A text that is covered wherever it stands. */
export interface Secret {
  text: string;
  code: string;
  /** A name, or a word of one: found as a word of its own, with what makes it possessive. */
  isName?: boolean;
  /** Found only as it is written, in capital and small letters: what is short is often another word. */
  isExact?: boolean;
}

/** What texts are searched for, made ready once. */
export class Secrets {
  private readonly numbers: { form: string; pattern: RegExp; code: string }[] = [];
  private readonly words: { text: string; code: string; isName: boolean; exact: string | null }[] =
    [];

  constructor(secrets: Iterable<Secret>) {
    const known = new Set<string>();
    for (const { text, code, isName = false, isExact = false } of secrets) {
      const form = normalForm(text);
      if (form === '' || known.has(`${isName} ${form}`)) continue;
      known.add(`${isName} ${form}`);
      const pattern = numberPattern(form);
      if (pattern) this.numbers.push({ form, pattern, code });
      else this.words.push({ text: form, code, isName, exact: isExact ? text.trim() : null });
    }
    // A longer text first: what is left of it around a shorter one would tell.
    this.words.sort((a, b) => b.text.length - a.text.length);
  }

  get isEmpty(): boolean {
    return this.numbers.length + this.words.length === 0;
  }

  /** The codes that they are covered by, each once. */
  get codes(): string[] {
    return [...new Set([...this.numbers, ...this.words].map(({ code }) => code))].sort();
  }

  /** Where they stand in a text, escaped or not, in its own units; whole characters, and whole words where a secret is a part of one. */
  placesIn(text: string): Span[] {
    return [...this.places(text)];
  }

  /** The first that stands in a text, escaped or not; null where none does. */
  firstIn(text: string): Span | null {
    for (const span of this.places(text)) return span;
    return null;
  }

  private *places(text: string): Generator<Span> {
    if (text === '' || this.isEmpty) return;
    yield* this.placesAsIs(text);
    for (const { text: read, from: places } of placedReadingsOf(text))
      for (const { from, to, code } of this.placesAsIs(read))
        yield { ...wholeCharacters(text, places[from]!, endOf(places, to)), code };
  }

  private *placesAsIs(text: string): Generator<Span> {
    const form = normalText(text);
    for (const { from, to, code } of this.found(form, text))
      yield { ...placeOf(form, text, from, to), code };
  }

  /** Which of them stand in a text, by their normal forms. */
  formsIn(text: string): { form: string; code: string }[] {
    if (text === '' || this.isEmpty) return [];
    const found = new Map<string, string>();
    for (const { form, code } of this.found(normalText(text), text)) found.set(form, code);
    return [...found].map(([form, code]) => ({ form, code }));
  }

  private *found(form: NormalText, original: string): Generator<Span & { form: string }> {
    const { text } = form;
    if (/\d/.test(text))
      for (const { form: number, pattern, code } of this.numbers)
        for (const { 0: found, index } of text.matchAll(pattern))
          yield { from: index, to: index + found.length, code, form: number };
    for (const { text: word, code, isName, exact } of this.words)
      for (let at = text.indexOf(word); at >= 0; at = text.indexOf(word, at + word.length)) {
        const place = isName
          ? asName(form, original, at, at + word.length)
          : wholeWords(text, at, at + word.length);
        if (!place) continue;
        const whole = placeOf(form, original, at, at + word.length);
        if (exact !== null && original.slice(whole.from, whole.to) !== exact) continue;
        yield { ...place, code, form: word };
      }
  }
}

/** A place in the normal form as one in the original, of whole characters as readers see them. */
function placeOf(
  { from: places }: NormalText,
  text: string,
  from: number,
  to: number
): { from: number; to: number } {
  const start = places ? places[from]! : from;
  const end = places ? endOf(places, to) : to;
  return wholeCharacters(text, start, end);
}

/** Where the last unit of a place ends: what was left out of the normal form behind it goes along. */
function endOf(places: Uint32Array, to: number): number {
  const last = places[to - 1]!;
  let next = to;
  while (next < places.length - 1 && places[next] === last) next++;
  return places[next]!;
}

const graphemes = new Intl.Segmenter('en', { granularity: 'grapheme' });
/** Units beside an end that are looked at: no character that is drawn as one is longer. */
const AROUND = 64;
const SIMPLE = /^[\x20-\x7e]*$/;

/** A stretch never cuts a character in two: the half that is left would tell of the other. */
export function wholeCharacters(
  text: string,
  from: number,
  to: number
): { from: number; to: number } {
  const [start, end] = [Math.max(0, from), Math.min(text.length, to)];
  const base = Math.max(0, start - AROUND);
  const around = text.slice(base, Math.min(text.length, end + AROUND));
  if (SIMPLE.test(around)) return { from: start, to: end };
  let [first, last] = [start, end];
  for (const { index, segment } of graphemes.segment(around)) {
    const [a, b] = [base + index, base + index + segment.length];
    if (a < start && start < b) first = a;
    if (a < end && end < b) last = b;
  }
  return { from: first, to: last };
}

/** Letters of scripts that write a word without others that belong to it stuck to it. */
const APART =
  /[\p{Script=Latin}\p{Script=Cyrillic}\p{Script=Greek}\p{Script=Armenian}\p{Script=Georgian}]/u;
/** Letters of scripts that set no blanks between words. */
const RUNNING =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}\p{Script=Tibetan}]/u;
const LETTER = /[\p{L}\p{M}]/u;

/**
 * A name counts as a word of its own, with its possessive; inside another
 * word it is another word. Scripts that stick small words to a name, or set no
 * blanks, have no such rule. Null where it is no such word.
 */
function asName(
  form: NormalText,
  original: string,
  from: number,
  to: number
): { from: number; to: number } | null {
  const { text } = form;
  const [first, last] = [charAt(text, from), charBefore(text, to)];
  if (!APART.test(first) && !APART.test(last)) return wholeWords(text, from, to);
  const before = charBefore(text, from);
  if (LETTER.test(before) && LETTER.test(first) && !isHump(form, original, from)) return null;
  const possessive = /^'?s(?![\p{L}\p{M}])|^'(?![\p{L}\p{M}])/u.exec(text.slice(to, to + 4));
  if (possessive) return { from, to: to + possessive[0].length };
  const after = charAt(text, to);
  if (LETTER.test(after) && LETTER.test(last) && !isHump(form, original, to)) return null;
  return { from, to };
}

/** Whether a small letter is followed by a capital one: words in names of files are told apart so. */
function isHump({ from: places }: NormalText, original: string, at: number): boolean {
  const place = places ? places[at]! : at;
  return (
    /\p{Ll}$/u.test(original.slice(Math.max(0, place - 2), place)) &&
    /^\p{Lu}/u.test(original.slice(place, place + 2))
  );
}

/** A place with the rest of the words that it begins or ends in. */
function wholeWords(text: string, from: number, to: number): { from: number; to: number } {
  let [start, end] = [from, to];
  const isPart = (a: string, b: string): boolean =>
    LETTER.test(a) && LETTER.test(b) && !RUNNING.test(a) && !RUNNING.test(b);
  const digits = (a: string, b: string): boolean => /\d/.test(a) && /\d/.test(b);
  const joins = (a: string, b: string): boolean => isPart(a, b) || digits(a, b);
  while (start > 0 && joins(charBefore(text, start), charAt(text, start)))
    start -= charBefore(text, start).length;
  while (end < text.length && joins(charBefore(text, end), charAt(text, end)))
    end += charAt(text, end).length;
  return { from: start, to: end };
}

function charAt(text: string, at: number): string {
  return at < text.length ? String.fromCodePoint(text.codePointAt(at)!) : '';
}

function charBefore(text: string, at: number): string {
  if (at <= 0) return '';
  const low = text.charCodeAt(at - 1);
  const isPair = low >= 0xdc00 && low <= 0xdfff && at > 1;
  return text.slice(isPair ? at - 2 : at - 1, at);
}

/** Digits of a telephone number that tell it. */
const LEAST_DIGITS = 6;
/** Where a number may begin: behind no digit, but for that of a sign that is written as its code. */
const LEFT = '(?:(?<!\\d)|(?<=%[0-9a-f]{2}))';
/** What may stand between the digits of a number, in the normal form. */
const BETWEEN = '(?:[\\s().\\-/]|%20)*';

/**
 * How a telephone number may be written: nationally or internationally, with
 * `+` or `00` and any calling code, its digits apart; null where a text is none.
 */
function numberPattern(form: string): RegExp | null {
  if (!/^\+?[\d\s().\-/]+$/.test(form)) return null;
  const digits = form.replace(/\D/g, '');
  if (digits.length < LEAST_DIGITS) return null;
  const isInternational = form.startsWith('+') || digits.startsWith('00');
  const parsed = isInternational
    ? parsePhoneNumberFromString(`+${digits.replace(/^00/, '')}`)
    : undefined;
  const own: string = parsed ? parsed.nationalNumber : digits.replace(/^0+/, '');
  if (own.length < LEAST_DIGITS - 1) return new RegExp(`${LEFT}${spread(digits)}(?!\\d)`, 'g');
  const code = parsed ? spread(parsed.countryCallingCode) : `[1-9](?:${BETWEEN}\\d){0,2}`;
  const before = `(?:(?:\\+|0${BETWEEN}0${BETWEEN})?${BETWEEN}${code}${BETWEEN})?`;
  return new RegExp(
    `${LEFT}${before}(?:\\(?${BETWEEN}0${BETWEEN}\\)?)?${BETWEEN}${spread(own)}(?!\\d)`,
    'g'
  );
}

function spread(digits: string): string {
  return [...digits].join(BETWEEN);
}
