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
  const form = new Form(text.length);
  // White space at the beginning counts for nothing, and behind other white space neither.
  let behindBlank = true;
  for (let at = 0, end = 0; at < text.length; at = end) {
    end = segmentEnd(text, at);
    const part = end === at + 1 ? foldedUnit(text.charCodeAt(at)) : folded(text.slice(at, end));
    if (part === '' || (part === ' ' && behindBlank)) continue;
    form.put(part, at);
    behindBlank = part.endsWith(' ');
  }
  return form.done(text.length);
}

const utf16 = new TextDecoder('utf-16le', { ignoreBOM: true });

/** A form in the making: files of many million signs leave no object a sign behind. */
class Form {
  private units: Uint16Array;
  private places: Uint32Array;
  private size = 0;

  constructor(expected: number) {
    this.units = new Uint16Array(expected + 16);
    this.places = new Uint32Array(expected + 16);
  }

  put(part: string, at: number): void {
    if (this.size + part.length >= this.units.length) this.grow(part.length);
    for (let i = 0; i < part.length; i++) {
      this.units[this.size] = part.charCodeAt(i);
      this.places[this.size++] = at;
    }
  }

  private grow(more: number): void {
    const size = 2 * this.units.length + more;
    const [units, places] = [new Uint16Array(size), new Uint32Array(size)];
    units.set(this.units);
    places.set(this.places);
    [this.units, this.places] = [units, places];
  }

  done(end: number): NormalText {
    this.places[this.size] = end;
    // Half of a pair becomes U+FFFD, in what is looked for as in what is searched.
    const text = utf16.decode(this.units.subarray(0, this.size));
    return { text, from: this.places.subarray(0, this.size + 1) };
  }
}

const MARKS = /\p{M}*/uy;
/** No mark has a lower code. */
const FIRST_MARK = 0x300;

/** Whether a unit is no mark by itself, 1, or may be one or half of one, 2; 0 before it was asked for. */
const marks = new Uint8Array(0x10000);

function mayBeMark(unit: number): boolean {
  if (unit < FIRST_MARK) return false;
  marks[unit] ||= /[\p{M}\p{Cs}]/u.test(String.fromCharCode(unit)) ? 2 : 1;
  return marks[unit] === 2;
}

/** Where a character ends with the marks that belong to it. */
function segmentEnd(text: string, at: number): number {
  const next = at + (text.codePointAt(at)! > 0xffff ? 2 : 1);
  if (next >= text.length || !mayBeMark(text.charCodeAt(next))) return next;
  MARKS.lastIndex = next;
  MARKS.test(text);
  return Math.max(next, MARKS.lastIndex);
}

/** The normal form alone, for what is looked for; blanks around it do not count. */
export function normalForm(text: string): string {
  return normalText(text).text.trim();
}

/** Forms of what is one unit, most of any text: kept for good, because noise runs through all of them. */
const unitForms: (string | undefined)[] = [];

function foldedUnit(unit: number): string {
  return (unitForms[unit] ??= formOf(String.fromCharCode(unit)));
}

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
