import { inflateSync, unzlibSync } from 'fflate';
import { byteText, textBytes } from '../../host';
import type { DecodedText } from './types';

/** A stream of a PDF that is a file of its own: one that is attached, a picture. */
export interface InnerFile {
  where: string;
  bytes: Uint8Array;
}

const STREAM_WHERE = 'a stream of the PDF';

/**
 * The texts of a PDF (ISO 32000): what its pages show, by the tables that say
 * which signs the glyphs of a font are (section 9.10.3), its strings, and
 * whatever else its streams hold. Nothing is laid out.
 */
export function* pdfTexts(bytes: Uint8Array): Generator<DecodedText | InnerFile> {
  const file = byteText(bytes);
  const bare = withoutStreams(file);
  yield { where: '', bytes: textBytes(bare) };
  yield { where: 'strings of the PDF', text: stringsIn(bare).join('\n') };
  if (/\/Encrypt\s+\d+\s+\d+\s+R\b/.test(bare)) yield { where: 'locked pages', text: null };
  const contents: string[] = [];
  const tables = new Map<number, GlyphTable>();
  const objects = new Map<number, string>(directObjects(file));
  for (const { number, head, data } of streamsOf(file, bytes)) {
    if (PIXELS.test(head) || OUTLINES.test(head)) continue;
    if (data === null) {
      yield { where: STREAM_WHERE, text: null };
      continue;
    }
    const text = byteText(data);
    if (/beginbf(char|range)/.test(text)) tables.set(number, glyphTable(text));
    else if (/\/Type\s*\/ObjStm\b/.test(head)) {
      yield { where: 'objects of the PDF', text: stringsIn(text).join('\n') };
      for (const [inner, object] of packedObjects(head, text)) objects.set(inner, object);
    } else if (/\bBT\b/.test(text) && /[)>\]]\s*T[jJ]\b/.test(text)) contents.push(text);
    else yield { where: STREAM_WHERE, bytes: data };
  }
  // The codes of such fonts are glyphs, of which nothing says what they mean (section 9.7).
  if (
    [...objects.values()].some(
      (object) => /\/Type0\b/.test(object) && !/\/ToUnicode\b/.test(object)
    )
  )
    yield { where: 'a font of the PDF', text: null };
  const fonts = fontTables(objects, tables);
  for (const content of contents) {
    const words = shownStrings(content).map((row) => signsOf(row, fonts, tables));
    for (const between of ['', ' ']) yield { where: 'a page', text: words.join(between) };
  }
}

/** Pictures that are nothing but pixels; others are files with words beside them (section 8.9). */
const PIXELS = /^(?=[^]*\/Subtype\s*\/Image\b)(?![^]*\/(?:DCT|JPX)Decode\b)/;
/** Files of fonts, and the table of a PDF's objects (sections 9.9 and 7.5.8). */
const OUTLINES = /\/Length1\b|\/Subtype\s*\/(?:Type1C|CIDFontType0C|OpenType)\b|\/Type\s*\/XRef\b/;

/** Objects that stand in the file as they are, up to where their streams begin. */
function* directObjects(file: string): Generator<[number, string]> {
  for (const { index, 1: number, 0: head } of file.matchAll(/(\d+) \d+ obj\b/g)) {
    const start = index + head.length;
    yield [Number(number), file.slice(start, start + MOST_OBJECT).split(/endobj|stream/, 1)[0]!];
  }
}

/** Signs of an object that are looked at. */
const MOST_OBJECT = 20_000;

/** Objects of an object stream: pairs of number and place, then the objects (section 7.5.7). */
function* packedObjects(head: string, text: string): Generator<[number, string]> {
  const first = Number(/\/First\s+(\d+)/.exec(head)?.[1] ?? 0);
  const pairs = [...text.slice(0, first).matchAll(/(\d+)\s+(\d+)/g)];
  for (const [i, pair] of pairs.entries()) {
    const next = pairs[i + 1];
    const end = next ? first + Number(next[2]) : text.length;
    yield [Number(pair[1]), text.slice(first + Number(pair[2]), end)];
  }
}

/** Tables by the names under which pages call their fonts; a name may mean several. */
function fontTables(
  objects: ReadonlyMap<number, string>,
  tables: ReadonlyMap<number, GlyphTable>
): Map<string, GlyphTable[]> {
  const fonts = new Map<string, GlyphTable[]>();
  for (const object of objects.values())
    for (const [, name, number] of object.matchAll(/\/([^\s/<>[\]()]+)\s+(\d+)\s+\d+\s+R\b/g)) {
      const table = /\/ToUnicode\s+(\d+)/.exec(objects.get(Number(number)) ?? '')?.[1];
      const known = table === undefined ? undefined : tables.get(Number(table));
      if (!known) continue;
      const all = fonts.get(name!) ?? [];
      if (!all.includes(known)) fonts.set(name!, [...all, known]);
    }
  return fonts;
}

const utf16 = new TextDecoder('utf-16be');

const STREAM = /stream\r?\n/g;

function* streamsOf(
  file: string,
  bytes: Uint8Array
): Generator<{ number: number; head: string; data: Uint8Array | null }> {
  for (const { index, 0: word } of file.matchAll(STREAM)) {
    if (file.slice(index - 3, index) === 'end') continue;
    const start = index + word.length;
    const end = file.indexOf('endstream', start);
    if (end < 0) return;
    const object = Math.max(0, file.lastIndexOf(' obj', index));
    const head = file.slice(object, index);
    const number = Number(
      /(\d+) \d+$/.exec(file.slice(Math.max(0, object - 24), object))?.[1] ?? -1
    );
    const data = bytes.subarray(start, end);
    yield { number, head, data: unfiltered(head, data) };
  }
}

/** The bytes of a stream; null where they are damaged, or packed by a filter that is not known (section 7.4). */
function unfiltered(head: string, data: Uint8Array): Uint8Array | null {
  if (/\/(?:ASCII85|ASCIIHex|LZW|RunLength)Decode\b|\/Crypt\b/.test(head)) return null;
  return /\/FlateDecode\b/.test(head) ? inflated(data) : data;
}

/** Null where the bytes are not packed so, or damaged. */
function inflated(data: Uint8Array): Uint8Array | null {
  for (const unpack of [unzlibSync, inflateSync])
    try {
      return unpack(data);
    } catch {
      continue;
    }
  return null;
}

function withoutStreams(file: string): string {
  let out = '';
  let at = 0;
  for (const { index, 0: word } of file.matchAll(STREAM)) {
    if (index < at || file.slice(index - 3, index) === 'end') continue;
    out += file.slice(at, index);
    const end = file.indexOf('endstream', index + word.length);
    if (end < 0) return out;
    at = end;
  }
  return out + file.slice(at);
}

/** Signs after which a string that nobody closed is taken to end. */
const LONGEST = 1 << 16;

/** Strings, in either writing, and the operators that show them. Each sign is passed once. */
function* tokensOf(text: string): Generator<string> {
  const next = /[(<]|\/[^\s/<>[\]()]+\s+[-\d.]+\s+Tf\b|\b(?:Tj|TJ|ET)\b|['"](?=\s)/g;
  for (let found = next.exec(text); found; found = next.exec(text)) {
    const { index, 0: token } = found;
    if (token !== '(' && token !== '<') {
      yield token;
      continue;
    }
    const end = token === '(' ? endOfLiteral(text, index) : endOfHex(text, index);
    if (end > index) yield text.slice(index, end);
    next.lastIndex = Math.max(index + 1, end);
  }
}

function endOfLiteral(text: string, start: number): number {
  let depth = 0;
  const most = Math.min(text.length, start + LONGEST);
  for (let at = start; at < most; at++) {
    const char = text[at];
    if (char === '\\') at++;
    else if (char === '(') depth++;
    else if (char === ')' && --depth === 0) return at + 1;
  }
  return most;
}

/** Zero where the bracket opens something else. */
function endOfHex(text: string, start: number): number {
  const hex = /<[0-9A-Fa-f\s]*>?/y;
  hex.lastIndex = start;
  const found = hex.exec(text)![0];
  return found.endsWith('>') && found.length > 2 ? start + found.length : 0;
}

function isString(token: string): boolean {
  return token.startsWith('(') || (token.startsWith('<') && token.length > 1);
}

function stringsIn(text: string): string[] {
  return [...tokensOf(text)].filter(isString).map((token) => asText(bytesOf(token)));
}

function asText(string: string): string {
  if (!string.startsWith('\xfe\xff')) return string;
  return utf16.decode(textBytes(string.slice(2)));
}

const ESCAPES: Record<string, string> = { n: '\n', r: '\r', t: '\t', b: '\b', f: '\f' };

/** The bytes of a string in either writing (section 7.3.4), a unit each. */
function bytesOf(token: string): string {
  if (token.startsWith('<')) {
    const hex = token.slice(1, -1).replace(/\s/g, '');
    let out = '';
    for (let at = 0; at < hex.length; at += 2)
      out += String.fromCharCode(parseInt(hex.slice(at, at + 2).padEnd(2, '0'), 16));
    return out;
  }
  return token
    .slice(1, -1)
    .replace(/\\(?:([0-7]{1,3})|\r?\n|([^]))/g, (_, octal?: string, char?: string) =>
      octal !== undefined
        ? String.fromCharCode(parseInt(octal, 8) & 255)
        : char === undefined
          ? ''
          : (ESCAPES[char] ?? char)
    );
}

/** The strings of an operator that shows text, and the font that is set. */
interface ShownRow {
  font: string;
  strings: string[];
}

function shownStrings(content: string): ShownRow[] {
  const rows: ShownRow[] = [];
  let strings: string[] = [];
  let font = '';
  for (const token of tokensOf(content)) {
    if (isString(token)) strings.push(bytesOf(token));
    else if (token.startsWith('/')) font = token.slice(1).split(/\s/, 1)[0]!;
    else if (strings.length > 0) {
      rows.push({ font, strings });
      strings = [];
    }
  }
  return rows;
}

/** Which signs the codes of a font stand for. */
interface GlyphTable {
  /** Bytes of a code. */
  width: number;
  signs: ReadonlyMap<number, string>;
}

/** What a row shows: by the tables of its font, by all where that has none, and as it stands. */
function signsOf(
  { font, strings }: ShownRow,
  fonts: ReadonlyMap<string, GlyphTable[]>,
  tables: ReadonlyMap<number, GlyphTable>
): string {
  const own = fonts.get(font);
  if (own?.length === 1) return decoded(strings, own[0]!);
  // Whichever it is: a sign that no text holds parts the readings.
  const readings = (own ?? [...tables.values()]).map((table) => decoded(strings, table));
  return [strings.join(''), ...readings].join('\u0001');
}

function decoded(strings: readonly string[], { width, signs }: GlyphTable): string {
  let out = '';
  for (const string of strings)
    for (let at = 0; at + width <= string.length; at += width) {
      let code = 0;
      for (let i = 0; i < width; i++) code = code * 256 + string.charCodeAt(at + i);
      // A code of one byte that its table leaves out is most often the sign itself.
      out += signs.get(code) ?? (width === 1 ? String.fromCharCode(code) : '');
    }
  return out;
}

/** Codes of one range that are taken in; none that is meant has more. */
const MOST_IN_RANGE = 65_536;

function glyphTable(text: string): GlyphTable {
  const signs = new Map<number, string>();
  let width = 2;
  for (const [, part] of text.matchAll(/beginbfchar([^]*?)endbfchar/g))
    for (const [, code, sign] of part!.matchAll(/<([0-9A-Fa-f]+)>\s*<([0-9A-Fa-f\s]*)>/g)) {
      width = Math.max(1, code!.length >> 1);
      signs.set(parseInt(code!, 16), fromHexUnits(sign!));
    }
  const range = /<([0-9A-Fa-f]+)>\s*<([0-9A-Fa-f]+)>\s*(?:<([0-9A-Fa-f\s]*)>|\[([^\]]*)\])/g;
  for (const [, part] of text.matchAll(/beginbfrange([^]*?)endbfrange/g))
    for (const [, low, high, first, list] of part!.matchAll(range)) {
      width = Math.max(1, low!.length >> 1);
      const [from, to] = [parseInt(low!, 16), parseInt(high!, 16)];
      const each = list?.match(/<[0-9A-Fa-f\s]*>/g);
      for (let code = from; code <= to && code - from < MOST_IN_RANGE; code++)
        signs.set(
          code,
          each
            ? fromHexUnits((each[code - from] ?? '').slice(1, -1))
            : nextSign(fromHexUnits(first ?? ''), code - from)
        );
    }
  return { width, signs };
}

function fromHexUnits(hex: string): string {
  return (hex.replace(/\s/g, '').match(/.{4}/g) ?? [])
    .map((unit) => String.fromCharCode(parseInt(unit, 16)))
    .join('');
}

/** In a range the last unit counts up. */
function nextSign(sign: string, more: number): string {
  if (sign === '') return '';
  const last = sign.charCodeAt(sign.length - 1) + more;
  return sign.slice(0, -1) + String.fromCharCode(last);
}
