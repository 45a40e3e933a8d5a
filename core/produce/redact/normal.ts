/**
 * One form in which texts are compared when something is to be covered:
 * compatibility forms (Unicode NFKD) and full case folding, every stretch of
 * white space as one blank, signs that cannot be seen left out, apostrophes,
 * quotation marks and dashes alike, digits of all scripts as 0 to 9.
 */
export interface NormalText {
  text: string;
  /** For each unit of the text, where what it stands for begins in the original; one more for its end. Null where both are the same. */
  from: Uint32Array | null;
}

const PLAIN = /^[!-~]?(?:[!-~]| (?! ))*$/;
const MARKS_LIKE_QUOTES = /[`"'^~]/;

/** The normal form of a text, with the places in the original. */
export function normalText(text: string): NormalText {
  // Most texts need no more than small letters.
  if (PLAIN.test(text) && !MARKS_LIKE_QUOTES.test(text))
    return { text: text.toLowerCase(), from: null };
  const places: number[] = [];
  let out = '';
  const put = (part: string, at: number): void => {
    for (let i = 0; i < part.length; i++) places.push(at);
    out += part;
  };
  let end = 0;
  // Known apart: to ask a string that grows for its end copies all of it.
  let behindBlank = true;
  for (const { 0: segment, index } of text.matchAll(SEGMENT)) {
    end = index + segment.length;
    const part = folded(segment);
    if (part === '' || (part === ' ' && behindBlank)) continue;
    put(part, index);
    behindBlank = part.endsWith(' ');
  }
  places.push(Math.max(end, text.length));
  return { text: out, from: Uint32Array.from(places) };
}

/** The normal form alone, for what is looked for; blanks around it do not count. */
export function normalForm(text: string): string {
  return normalText(text).text.trim();
}

/** A character with the marks that belong to it. */
const SEGMENT = /[^]\p{M}*/gu;

const known = new Map<string, string>();
const MOST_KNOWN = 20_000;

function folded(segment: string): string {
  let form = known.get(segment);
  if (form === undefined) {
    form = formOf(segment);
    if (known.size > MOST_KNOWN) known.clear();
    known.set(segment, form);
  }
  return form;
}

function formOf(segment: string): string {
  const alike = segment.replace(ALIKE, (sign) => SIGNS.get(sign) ?? sign);
  const wide = alike.normalize('NFKD').toUpperCase().toLowerCase().normalize('NFKD');
  return wide
    .replace(UNSEEN, '')
    .replace(/i\u0307/g, 'i')
    .replaceAll('ς', 'σ')
    .replace(/\p{Nd}/gu, digitOf)
    .replace(/\s+/g, ' ');
}

/** Control and format characters, and others that nothing is drawn for; white space is none of them. */
const UNSEEN = /(?!\s)[\p{Cc}\p{Cf}\p{Default_Ignorable_Code_Point}]|\ufeff/gu;

const APOSTROPHES =
  '\u0060\u00b4\u02b9\u02bb\u02bc\u02bd\u02c8\u2018\u2019\u201a\u201b\u2032\u2035\ua78c\uff07';
const QUOTES =
  '\u00ab\u00bb\u02ba\u201c\u201d\u201e\u201f\u2033\u2036\u2039\u203a\u275d\u275e\u301d\u301e\uff02';
const DASHES =
  '\u058a\u05be\u1400\u2010\u2011\u2012\u2013\u2014\u2015\u2043\u207b\u208b\u2212\u2e3a\u2e3b\ufe58\ufe63\uff0d';
const SIGNS = new Map<string, string>([
  ...[...APOSTROPHES].map((sign): [string, string] => [sign, "'"]),
  ...[...QUOTES].map((sign): [string, string] => [sign, '"']),
  ...[...DASHES].map((sign): [string, string] => [sign, '-'])
]);
const ALIKE = new RegExp(`[${APOSTROPHES}${QUOTES}${DASHES}]`, 'g');

/** The digits of a script stand in a row from its zero; rows that touch are of ten each. */
function digitOf(digit: string): string {
  const code = digit.codePointAt(0)!;
  if (code < 0x80) return digit;
  let before = 0;
  while (/\p{Nd}/u.test(String.fromCodePoint(code - before - 1))) before++;
  return String(before % 10);
}
