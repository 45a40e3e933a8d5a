import type { TextEncoding } from '../../host';

/**
 * What the texts of a column are made of. Dates, addresses and codes keep to
 * few letters and begin alike; what people write keeps to the scripts that
 * they use. A reading that is off by a byte, or that runs into what was
 * written later, does not.
 */
export interface Letters {
  texts: number;
  units: number;
  first: Set<number>;
  seen: Set<number>;
  blocks: Set<number>;
  /** What stands at each place, where all texts are built alike, as dates and unique ids are; null where they are not. */
  shape: number[] | null;
  marks?: { letters: number; bytes: Uint8Array };
}

export function noLetters(): Letters {
  return {
    shape: null,
    texts: 0,
    units: 0,
    first: new Set(),
    seen: new Set(),
    blocks: new Set()
  };
}

export function learnLetters(letters: Letters, text: string): void {
  if (text === '') return;
  const { first, seen, blocks } = letters;
  letters.texts++;
  if (first.size <= FEW_FIRST) first.add(letterOf(text.charCodeAt(0)));
  const end = Math.min(text.length, LEARNED);
  for (let i = 0; i < end && seen.size <= FEW_LETTERS; i++) seen.add(letterOf(text.charCodeAt(i)));
  let last = -1;
  for (let i = 0; i < end; i++) {
    const block = blockOf(text.charCodeAt(i));
    // Most texts keep to one script.
    if (block !== last) blocks.add((last = block));
  }
  letters.shape =
    letters.texts === 1 ? shapeOf(text) : letters.shape && common(letters.shape, text);
  letters.units += end;
}

const DIGIT = -1;
const LETTER = -2;
const EITHER = -3;
/** Shorter texts are alike by chance, longer ones are no codes. */
const SHORTEST_SHAPE = 8;
const LONGEST_SHAPE = 64;

/** Digits and plain letters by their kind, signs as they are. */
function kindOf(unit: number): number {
  if (unit >= 0x30 && unit <= 0x39) return DIGIT;
  const lower = unit | 0x20;
  return lower >= 0x61 && lower <= 0x7a ? LETTER : unit;
}

function shapeOf(text: string): number[] | null {
  if (text.length < SHORTEST_SHAPE || text.length > LONGEST_SHAPE) return null;
  return Array.from({ length: text.length }, (_, i) => kindOf(text.charCodeAt(i)));
}

/** The shape that a text shares with others; null where there is none. */
function common(shape: number[], text: string): number[] | null {
  if (shape.length !== text.length) return null;
  for (let i = 0; i < shape.length; i++) {
    const kind = kindOf(text.charCodeAt(i));
    if (kind === shape[i]) continue;
    if (kind > 0 || shape[i]! > 0) return null;
    shape[i] = EITHER;
  }
  return shape;
}

/** A text as it lies there. */
interface StoredText {
  bytes: Uint8Array;
  from: number;
  to: number;
  encoding: TextEncoding;
}

function hasShape(shape: readonly number[], { bytes, from, to, encoding }: StoredText): boolean {
  const step = encoding === 'utf-8' ? 1 : 2;
  const count = Math.min(shape.length, Math.floor((to - from) / step));
  for (let i = 0; i < count; i++) {
    const kind = kindOf(unitAt(bytes, from + i * step, encoding));
    if (kind !== shape[i] && !(shape[i] === EITHER && kind < 0)) return false;
  }
  return true;
}

/** Bits that stored bytes lose when they begin with, or hold, what no live text does. */
export function judgeLetters(
  letters: Letters,
  bytes: Uint8Array,
  from: number,
  to: number,
  encoding: TextEncoding
): number {
  const { texts } = letters;
  if (texts < SOME_TEXTS || from >= to) return 0;
  const text = { bytes, from, to, encoding };
  if (letters.shape && !hasShape(letters.shape, text)) return -ODD_LETTER;
  return texts < ENOUGH_TEXTS ? 0 : oddness(letters, text);
}

function oddness(letters: Letters, text: StoredText): number {
  const { bytes, from, to, encoding } = text;
  const { first } = letters;
  const step = encoding === 'utf-8' ? 1 : 2;
  if (!isCode(letters)) return 0 - FOREIGN * countForeign(letters, text);
  const isOddFirst = first.size <= FEW_FIRST && !first.has(letterOf(unitAt(bytes, from, encoding)));
  const score = isOddFirst ? -ODD_BEGINNING : 0;
  const marks = marksOf(letters);
  for (let at = from; at + step <= to; at += step)
    if (marks[letterOf(unitAt(bytes, at, encoding))] === 0) return score - ODD_LETTER;
  return score;
}

/** A mark for each letter that was seen, as of so many letters. */
function marksOf(letters: Letters): Uint8Array {
  const { seen, marks } = letters;
  if (marks?.letters === seen.size) return marks.bytes;
  const bytes = new Uint8Array(0x81);
  for (const letter of seen) bytes[letter] = 1;
  letters.marks = { letters: seen.size, bytes };
  return bytes;
}

/** Whether a column holds codes. What has blanks is written by people, who may write anything. */
function isCode({ seen, units, shape }: Letters): boolean {
  if (seen.size > FEW_LETTERS || units < seen.size * ENOUGH_A_LETTER) return false;
  return shape !== null || !seen.has(BLANK);
}

const BLANK = 0x20;

/** Characters of scripts that no live text holds, up to two. */
function countForeign(letters: Letters, { bytes, from, to, encoding }: StoredText): number {
  if (encoding === 'utf-8' || letters.units < ENOUGH_UNITS) return 0;
  let count = 0;
  for (let at = from; at + 2 <= to && count < 2; at += 2)
    if (isForeign(letters, unitAt(bytes, at, encoding))) count++;
  return count;
}

/** Where a text that was cut runs into something else: the first character of a script that no live text holds, or -1. */
export function firstForeign(letters: Letters, text: string): number {
  if (letters.units < ENOUGH_UNITS || letters.seen.size <= FEW_LETTERS) return -1;
  for (let i = 0; i < text.length; i++)
    // A text that begins so is one in another script.
    if (isForeign(letters, text.charCodeAt(i))) return i < LEAST_BEFORE ? -1 : i;
  return -1;
}

/** Scripts that no live text holds, in one text: as many come of other bytes read as text, not of people. */
const MANY_SCRIPTS = 3;

/** Where a text that seems whole was written over: the first of characters of many scripts that no live text holds, or -1. */
export function overwrittenAt(letters: Letters, text: string): number {
  if (letters.units < SOME_UNITS || isCode(letters)) return -1;
  const scripts = new Set<number>();
  let first = -1;
  for (let i = 0; i < text.length; i++) {
    const unit = text.charCodeAt(i);
    if (!isForeign(letters, unit)) continue;
    if (first < 0) first = i;
    scripts.add(blockOf(unit));
  }
  return scripts.size >= MANY_SCRIPTS ? first : -1;
}

function isForeign({ blocks }: Letters, unit: number): boolean {
  return !blocks.has(blockOf(unit));
}

/** Scripts by blocks of 256 code units, the large ones as one; signs and emoji are everybody's. */
function blockOf(unit: number): number {
  const block = unit >> 8;
  const isSign = (block >= 0x20 && block <= 0x2b) || (block >= 0xd8 && block <= 0xdf);
  if (isSign || block === 0xfe) return 0x20;
  if (block >= 0x2e && block <= 0x9f) return 0x4e;
  return block >= 0xac && block <= 0xd7 ? 0xac : block;
}

/** Plain letters by themselves, all others as one, for they take several bytes in UTF-8. */
function letterOf(unit: number): number {
  return Math.min(unit, 0x80);
}

function unitAt(bytes: Uint8Array, at: number, encoding: TextEncoding): number {
  if (encoding === 'utf-8') return bytes[at]!;
  const [high, low] = encoding === 'utf-16be' ? [0, 1] : [1, 0];
  return (bytes[at + high]! << 8) | bytes[at + low]!;
}

/** Letters of one text that are looked at. */
const LEARNED = 400;
const SOME_TEXTS = 6;
/** Letters come again and again in a column that keeps to few. */
const ENOUGH_A_LETTER = 10;
const ENOUGH_TEXTS = 20;
/** Units from which the scripts of a column are known. */
const ENOUGH_UNITS = 1000;
/** Units from which at least a mixture of many other scripts is strange. */
const SOME_UNITS = 200;
const LEAST_BEFORE = 4;
const FEW_FIRST = 3;
/** Hexadecimal digits in both cases, with signs. */
const FEW_LETTERS = 32;
const ODD_BEGINNING = 8;
const ODD_LETTER = 8;
const FOREIGN = 4;
