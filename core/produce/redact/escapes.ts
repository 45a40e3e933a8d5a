/**
 * Ways in which signs stand for others in a text: links, markup, JSON, folded
 * lines. A text is read through each of them, both when it is covered and when
 * a finished file is searched, so that what the one finds the other finds too.
 */
interface Escape {
  /** Whether a text may hold any: cheap, and asked of every text. */
  test: RegExp;
  pattern: RegExp;
  /** What a match stands for. */
  to: (found: RegExpMatchArray) => string;
}

const utf8 = new TextDecoder('utf-8');

/** One character of UTF-8, each byte of it written as `%` and two digits (RFC 3986, section 2.1); a plus between words is a blank in queries. */
const BYTE = '%[89ab][0-9a-f]';
const PERCENT = new RegExp(
  `%[0-7][0-9a-f]|%[cd][0-9a-f]${BYTE}|%e[0-9a-f](?:${BYTE}){2}|%f[0-7](?:${BYTE}){3}|%[89a-f][0-9a-f]|(?<=[\\p{L}\\p{N}])\\+(?=[\\p{L}\\p{N}])`,
  'giu'
);

const NAMED: Record<string, string> = {
  amp: '&',
  lt: '<',
  gt: '>',
  quot: '"',
  apos: "'",
  nbsp: ' '
};
const SHORT: Record<string, string> = { n: '\n', r: '\r', t: '\t' };
const MARKUP = /<\/?[a-z!?][^>]*>/gi;
const ENTITY = /&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|(amp|lt|gt|quot|apos|nbsp));/gi;

const percent: Escape = {
  test: /%[0-9a-f]{2}|\w\+\w/i,
  pattern: PERCENT,
  to: ([run]) =>
    run === '+'
      ? ' '
      : utf8.decode(Uint8Array.from(run!.slice(1).split('%'), (hex) => parseInt(hex, 16)))
};

const entities: Escape = {
  test: /&(?:#|\w+;)/,
  pattern: ENTITY,
  to: ([all, decimal, hex, name]) => {
    if (name !== undefined) return NAMED[name.toLowerCase()]!;
    const code = decimal === undefined ? parseInt(hex!, 16) : Number(decimal);
    return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : all!;
  }
};

const json: Escape = {
  test: /\\(?:u[0-9a-f]{4}|[nrt"\\/])/i,
  pattern: /\\(?:u([0-9a-f]{4})|([nrtbf"\\/]))/gi,
  to: ([, hex, short]) =>
    hex === undefined
      ? (SHORT[short!.toLowerCase()] ?? short!)
      : String.fromCharCode(parseInt(hex, 16))
};

const folds: Escape = { test: /\r?\n[ \t]/, pattern: /\r?\n[ \t]/g, to: () => '' };

/** Words that markup parts are read as one, and as two. */
const markup = ['', ' '].map((between): Escape => ({
  test: /<[a-z!?/]/i,
  pattern: MARKUP,
  to: () => between
}));

/** One after the other: markup is taken away before what stands for its signs is read. */
const READINGS: readonly (readonly Escape[])[] = [
  [markup[0]!, entities],
  [markup[1]!, entities],
  [entities],
  [json],
  [percent],
  [folds]
];

/** A text as it reads without escapes. */
export interface Unescaped {
  text: string;
  /** For each unit, where what it stands for begins in the original; one more for its end. */
  from: Uint32Array;
}

/** Each reading of a text that differs from it. */
export function* readingsOf(text: string): Generator<string> {
  for (const escapes of readingsWith(text)) {
    let read = text;
    for (const { pattern, to } of escapes)
      read = read.replace(pattern, (...found) => to(found.slice(0, -2) as RegExpMatchArray));
    if (read !== text) yield read;
  }
}

/** The same with the places in the original, for texts of which a part is to be covered. */
export function* placedReadingsOf(text: string): Generator<Unescaped> {
  for (const escapes of readingsWith(text)) {
    let read: Unescaped | null = null;
    for (const escape of escapes) read = through(escape, read?.text ?? text, read?.from ?? null);
    if (read && read.text !== text) yield read;
  }
}

/** The readings whose first escape a text may hold: each has one that no other begins with. */
function readingsWith(text: string): (readonly Escape[])[] {
  return READINGS.filter(([first]) => first!.test.test(text));
}

function through({ pattern, to }: Escape, text: string, before: Uint32Array | null): Unescaped {
  const parts: string[] = [];
  const places: number[] = [];
  const at = (place: number): number => before?.[place] ?? place;
  let end = 0;
  const copy = (until: number): void => {
    parts.push(text.slice(end, until));
    for (; end < until; end++) places.push(at(end));
  };
  for (const found of text.matchAll(pattern)) {
    copy(found.index);
    const part = to(found);
    parts.push(part);
    for (let i = 0; i < part.length; i++) places.push(at(found.index));
    end = found.index + found[0].length;
  }
  copy(text.length);
  places.push(at(text.length));
  return { text: parts.join(''), from: Uint32Array.from(places) };
}
