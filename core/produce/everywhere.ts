import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import type { Span } from './parts';

/** A text that is covered wherever it stands. */
export interface Wanted {
  text: string;
  code: string;
}

/** Digits of a telephone number that tell it. */
const LEAST_DIGITS = 6;
const BETWEEN = '[\\s().\\-/\\u00a0\\u2010-\\u2015\\u200b-\\u200f\\u202a-\\u202e\\u2066-\\u2069]*';

const patterns = new Map<string, RegExp | null>();

/** How a telephone number may be written: with or without its calling code, its digits apart; null where a text is none. */
function numberPattern(text: string): RegExp | null {
  let known = patterns.get(text);
  if (known === undefined) patterns.set(text, (known = patternOf(text)));
  return known;
}

function patternOf(text: string): RegExp | null {
  const bare = text.trim();
  if (!/^\+?[\d\s().\-/]+$/.test(bare)) return null;
  const digits = bare.replace(/\D/g, '');
  if (digits.length < LEAST_DIGITS) return null;
  const parsed = parsePhoneNumberFromString(bare);
  const own: string = parsed ? parsed.nationalNumber : digits.replace(/^0+/, '');
  const apart = [...own].join(BETWEEN);
  const code = parsed ? `(?:(?:\\+|00)?${BETWEEN}${parsed.countryCallingCode}${BETWEEN})?` : '\\+?';
  return new RegExp(`(?<!\\d)${code}(?:\\(?0\\)?${BETWEEN})*${apart}(?!\\d)`, 'g');
}

/** Places of texts in another, whatever the case of its letters and however a number is written. */
export function placesOf(text: string, wanted: readonly Wanted[]): Span[] {
  if (text === '') return [];
  const spans: Span[] = [];
  const folded = text.toLowerCase();
  const hasDigit = /\d/.test(text);
  // Letters that change their length with their case would shift the places.
  const isAligned = folded.length === text.length;
  for (const { text: secret, code } of wanted) {
    const pattern = numberPattern(secret);
    if (pattern) {
      for (const found of hasDigit ? text.matchAll(pattern) : [])
        spans.push({ from: found.index, to: found.index + found[0].length, code });
      continue;
    }
    const small = secret.toLowerCase();
    const [hay, needle] =
      isAligned && small.length === secret.length ? [folded, small] : [text, secret];
    for (let at = hay.indexOf(needle); at >= 0; at = hay.indexOf(needle, at + needle.length))
      spans.push({ from: at, to: at + needle.length, code });
  }
  return spans;
}
