import type { Text } from '../parts';
import type { FontSet } from './fonts';

/**
 * A stretch of text as the template sets it: plain text, an emoji (`e`), the
 * code point of what no font can draw (`c`), or a bar with its code (`b`).
 */
export type TextRun = string | { e: string } | { c: string } | { b: string };

/** A paragraph with its direction, by its first strong letter. */
export interface Paragraph {
  d: 'ltr' | 'rtl';
  r: TextRun[];
}

const segmenter = new Intl.Segmenter('en', { granularity: 'grapheme' });
const LINE_END = /\r\n|[\n\r\u2028\u2029\u0085\v\f]/;
/** Controls, marks that turn the direction around, halves of characters, noncharacters. */
const HIDDEN =
  /^[\u0000-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069\ufff9-\ufffb\ufffe\uffff\ud800-\udfff]$/;
/** Characters that have no glyph and need none. */
const SILENT = /^[\p{Default_Ignorable_Code_Point}\u200b]$/u;
const EMOJI = /\p{Emoji_Presentation}|\ufe0f|\p{Regional_Indicator}|[\u{1f3fb}-\u{1f3ff}]|\u20e3/u;

/** The paragraphs of a text. */
export function paragraphsOf(text: Text, fonts: FontSet): Paragraph[] {
  const paragraphs: TextRun[][] = [[]];
  for (const part of text) {
    if ('code' in part) {
      paragraphs[paragraphs.length - 1]!.push({ b: part.code });
      continue;
    }
    for (const [i, line] of part.text.split(LINE_END).entries()) {
      if (i > 0) paragraphs.push([]);
      paragraphs[paragraphs.length - 1]!.push(...runsOf(line, fonts));
    }
  }
  return paragraphs.flatMap((r) => {
    const d = directionOf(r);
    return piecesOf(r).map((piece) => ({ d, r: piece }));
  });
}

/** Letters of a paragraph past which it is set in pieces: the engine weighs all breaks of one against each other. */
const LONGEST_PARAGRAPH = 1500;

/** A paragraph of any length in pieces that end between words where they can. */
function piecesOf(runs: readonly TextRun[]): TextRun[][] {
  const pieces: TextRun[][] = [[]];
  let length = 0;
  for (const run of runs)
    for (const part of typeof run === 'string' ? partsOf(run) : [run]) {
      const size = typeof part === 'string' ? part.length : 1;
      if (length > 0 && length + size > LONGEST_PARAGRAPH) {
        pieces.push([]);
        length = 0;
      }
      pieces[pieces.length - 1]!.push(part);
      length += size;
    }
  return pieces;
}

function partsOf(text: string): string[] {
  if (text.length <= LONGEST_PARAGRAPH) return [text];
  const parts: string[] = [];
  for (let at = 0; at < text.length;) {
    let end = Math.min(text.length, at + LONGEST_PARAGRAPH);
    if (end < text.length) {
      const gap = Math.max(text.lastIndexOf(' ', end), text.lastIndexOf('\u200b', end));
      end = gap > at ? gap + 1 : isLowHalf(text, end) ? end + 1 : end;
    }
    parts.push(text.slice(at, end));
    at = end;
  }
  return parts;
}

function isLowHalf(text: string, at: number): boolean {
  const unit = text.charCodeAt(at);
  return unit >= 0xdc00 && unit <= 0xdfff;
}

/** A text on one line. */
export function lineOf(text: Text, fonts: FontSet): Paragraph {
  const r = text.flatMap((part): TextRun[] =>
    'code' in part ? [{ b: part.code }] : runsOf(part.text.replace(/\s+/g, ' '), fonts)
  );
  return { d: directionOf(r), r };
}

/** Marks on one letter that are drawn; the other formats hold all of them. */
const MOST_MARKS = 100;

function runsOf(text: string, fonts: FontSet): TextRun[] {
  const runs: TextRun[] = [];
  let plain = '';
  const flush = (): void => {
    if (plain !== '') runs.push(breakable(plain));
    plain = '';
  };
  for (const segment of segmentsOf(text.replaceAll('\t', '    '))) {
    if (isPlain(segment)) {
      plain += segment;
      continue;
    }
    if (isEmoji(segment, fonts)) {
      flush();
      runs.push({ e: segment });
      continue;
    }
    const chars = [...segment];
    const more = chars.length - MOST_MARKS;
    for (const char of more > 0 ? chars.slice(0, MOST_MARKS) : chars) {
      if (isDrawn(char, fonts)) plain += char;
      else {
        flush();
        runs.push({ c: codeOf(char) });
      }
    }
    if (more > 0) {
      flush();
      runs.push({ c: `${more} more marks` });
    }
  }
  flush();
  return runs;
}

/** Letters that are taken apart at a time: the longer a text, the longer each step through it takes. */
const AT_A_TIME = 512;

/** A text's characters as readers see them; words of plain letters as they are. */
function* segmentsOf(text: string): Generator<string> {
  for (const word of text.match(/ +|[^ ]+/g) ?? []) {
    if (isPlain(word)) yield word;
    else
      for (const piece of cutUp(word))
        for (const { segment } of segmenter.segment(piece)) yield segment;
  }
}

function isPlain(text: string): boolean {
  return /^[\x20-\x7e]+$/.test(text);
}

/** Pieces of a word, none of which ends within a pair of units or before a mark. */
function* cutUp(word: string): Generator<string> {
  let at = 0;
  while (word.length - at > AT_A_TIME * 2) {
    let end = at + AT_A_TIME;
    while (
      end < word.length &&
      end < at + AT_A_TIME * 2 &&
      /^[\udc00-\udfff]|^[\p{M}\u200d]/u.test(word.slice(end, end + 2))
    )
      end++;
    yield word.slice(at, end);
    at = end;
  }
  yield word.slice(at);
}

function isEmoji(segment: string, fonts: FontSet): boolean {
  const code = segment.codePointAt(0)!;
  const isOne =
    EMOJI.test(segment) || (/\p{Extended_Pictographic}/u.test(segment) && !fonts.text(code));
  return (
    isOne && [...segment].every((char) => SILENT.test(char) || fonts.emoji(char.codePointAt(0)!))
  );
}

function isDrawn(char: string, fonts: FontSet): boolean {
  if (HIDDEN.test(char)) return false;
  return SILENT.test(char) || fonts.text(char.codePointAt(0)!);
}

function codeOf(char: string): string {
  return `U+${char.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`;
}

/** Letters without a place to break that a line may have. */
const LONGEST_TOKEN = 40;
const EVERY = 20;

/** Long tokens may be broken, so that they do not run off the page. */
function breakable(text: string): string {
  return text.replace(/[^\s\u200b-]{41,}/gu, (token) =>
    token.length <= LONGEST_TOKEN
      ? token
      : [...token].map((char, i) => (i > 0 && i % EVERY === 0 ? `\u200b${char}` : char)).join('')
  );
}

const RIGHT =
  /[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}]/u;

/** By the first strong letter (UAX 9, P2). */
function directionOf(runs: readonly TextRun[]): 'ltr' | 'rtl' {
  for (const run of runs) {
    const strong = typeof run === 'string' ? /\p{L}/u.exec(run)?.[0] : undefined;
    if (strong !== undefined) return RIGHT.test(strong) ? 'rtl' : 'ltr';
  }
  return 'ltr';
}
