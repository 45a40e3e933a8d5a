import { inflateSync, unzlibSync } from 'fflate';
import type { DecodedText } from './types';

/**
 * The texts of a PDF (ISO 32000): what its streams show, by the tables that
 * say which signs the glyphs are (section 9.10.3), its strings, and its
 * metadata. Nothing is laid out; a stream is read with every table of the
 * file, for only the one it belongs to gives words.
 */
export function* pdfTexts(bytes: Uint8Array): Generator<DecodedText> {
  const file = latin1(bytes);
  yield { where: 'strings of the PDF', text: stringsIn(withoutStreams(file)).join('\n') };
  const contents: string[] = [];
  const tables: GlyphTable[] = [];
  for (const { head, data } of streamsOf(file, bytes)) {
    if (/\/Subtype\s*\/Image\b/.test(head)) continue;
    const text = latin1(data);
    if (/\/Type\s*\/Metadata\b|<x:xmpmeta/.test(head + text.slice(0, 400)))
      yield { where: 'metadata', text: utf8.decode(data) };
    if (/beginbf(char|range)/.test(text)) tables.push(glyphTable(text));
    else if (/\/Type\s*\/ObjStm\b/.test(head))
      yield { where: 'objects of the PDF', text: stringsIn(text).join('\n') };
    else if (/\bT[jJ]\b|'\s/.test(text)) contents.push(text);
  }
  for (const content of contents) {
    const shown = shownStrings(content);
    for (const table of [null, ...tables]) {
      const words = shown.map((string) => signsOf(string, table));
      for (const between of ['', ' ', '\n'])
        yield { where: 'a page', text: words.map((row) => row.join('')).join(between) };
    }
  }
}

const utf8 = new TextDecoder();
const utf16 = new TextDecoder('utf-16be');

function latin1(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 0x8000)
    text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return text;
}

const STREAM = /stream\r?\n/g;

function* streamsOf(
  file: string,
  bytes: Uint8Array
): Generator<{ head: string; data: Uint8Array }> {
  for (const { index, 0: word } of file.matchAll(STREAM)) {
    if (file.slice(index - 3, index) === 'end') continue;
    const start = index + word.length;
    const end = file.indexOf('endstream', start);
    if (end < 0) return;
    const head = file.slice(Math.max(0, file.lastIndexOf(' obj', index)), index);
    const data = bytes.subarray(start, end);
    yield { head, data: /FlateDecode/.test(head) ? (inflated(data) ?? data) : data };
  }
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
  const next = /[(<]|\b(?:Tj|TJ|ET)\b|['"](?=\s)/g;
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
  return utf16.decode(Uint8Array.from(string.slice(2), (char) => char.charCodeAt(0)));
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

/** The strings of each operator that shows text, in their order. */
function shownStrings(content: string): string[][] {
  const rows: string[][] = [];
  let row: string[] = [];
  for (const token of tokensOf(content)) {
    if (isString(token)) row.push(bytesOf(token));
    else if (row.length > 0) {
      rows.push(row);
      row = [];
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

function signsOf(row: readonly string[], table: GlyphTable | null): string[] {
  if (!table) return [...row];
  return row.map((string) => {
    let out = '';
    for (let at = 0; at + table.width <= string.length; at += table.width) {
      let code = 0;
      for (let i = 0; i < table.width; i++) code = code * 256 + string.charCodeAt(at + i);
      out += table.signs.get(code) ?? '';
    }
    return out;
  });
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
