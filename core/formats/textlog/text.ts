import type { TextLine } from './entries';

type LogEncoding = 'utf-16le' | 'utf-16be' | 'utf-8' | 'windows-1252';

/** A text that was decoded as a whole, without its byte order mark. */
export interface DecodedText {
  text: string;
  /** The byte of the file at which a character of the text begins; the file's end for what lies behind the text. */
  offsetOf(index: number): number;
}

/** Of what is no ASCII, the share that may be malformed in a text that is UTF-8 all the same. */
const MOST_MALFORMED = 0.1;

/** The encoding that a text's bytes show: UTF-16 by its mark, UTF-8 even where some of it is damaged, else the western single-byte one. */
function encodingOf(bytes: Uint8Array): LogEncoding {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  if (isWellFormed(bytes)) return 'utf-8';
  const { whole, malformed } = sequencesOf(bytes);
  return malformed.length <= whole * MOST_MALFORMED ? 'utf-8' : 'windows-1252';
}

function isWellFormed(bytes: Uint8Array): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return true;
  } catch (error) {
    if (error instanceof TypeError) return false;
    throw error;
  }
}

/** How many characters of several bytes are whole, and the places of bytes that belong to none (RFC 3629, section 4). */
function sequencesOf(bytes: Uint8Array): { whole: number; malformed: number[] } {
  const malformed: number[] = [];
  let whole = 0;
  for (let at = 0; at < bytes.length;) {
    const length = sequenceAt(bytes, at);
    if (length === 0) malformed.push(at);
    else if (length > 1) whole++;
    at += Math.max(1, length);
  }
  return { whole, malformed };
}

/** Bytes of the character at a place; 0 where none is whole there. */
function sequenceAt(bytes: Uint8Array, at: number): number {
  const lead = bytes[at]!;
  if (lead < 0x80) return 1;
  const length =
    lead >= 0xc2 && lead < 0xe0
      ? 2
      : (lead & 0xf0) === 0xe0
        ? 3
        : lead >= 0xf0 && lead < 0xf5
          ? 4
          : 0;
  if (length === 0 || at + length > bytes.length) return 0;
  for (let i = 1; i < length; i++) if ((bytes[at + i]! & 0xc0) !== 0x80) return 0;
  const next = bytes[at + 1]!;
  const tooLong = (lead === 0xe0 && next < 0xa0) || (lead === 0xf0 && next < 0x90);
  const noCharacter = (lead === 0xed && next > 0x9f) || (lead === 0xf4 && next > 0x8f);
  return tooLong || noCharacter ? 0 : length;
}

/** Stands for a malformed byte while places are counted: one byte, as what it stands for. */
const SUBSTITUTE = 0x1a;

/** Decodes a whole text and tells where its characters lie in the file. */
export function decodeWhole(bytes: Uint8Array): DecodedText {
  const encoding = encodingOf(bytes);
  if (encoding.startsWith('utf-16')) return decodedUnits(bytes, encoding, 2);
  if (encoding === 'windows-1252') return decodedUnits(bytes, encoding, 1);
  const mark = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
  const { text, measured } = decodedUtf8(bytes.subarray(mark));
  const places = utf8Places(measured, mark);
  return { text, offsetOf: (index) => Math.min(places(index), bytes.length) };
}

function decodedUnits(bytes: Uint8Array, encoding: LogEncoding, unit: 1 | 2): DecodedText {
  const mark = unit === 2 ? 2 : 0;
  const decoder = new TextDecoder(encoding, { ignoreBOM: true });
  const text = decoder.decode(bytes.subarray(mark));
  return { text, offsetOf: (index) => Math.min(mark + index * unit, bytes.length) };
}

/** The text, and the same text with a character of one byte where one was malformed. */
function decodedUtf8(bytes: Uint8Array): { text: string; measured: string } {
  const decoder = new TextDecoder('utf-8', { ignoreBOM: true });
  if (isWellFormed(bytes)) {
    const text = decoder.decode(bytes);
    return { text, measured: text };
  }
  const copy = new Uint8Array(bytes);
  for (const at of sequencesOf(bytes).malformed) copy[at] = SUBSTITUTE;
  const measured = decoder.decode(copy);
  return { text: measured.replaceAll(String.fromCharCode(SUBSTITUTE), '\ufffd'), measured };
}

/** Characters between two places that are kept. */
const STRIDE = 1024;

/** Character positions to byte positions, in any order. */
function utf8Places(text: string, base: number): (index: number) => number {
  const kept: number[] = [base];
  for (let from = 0; from + STRIDE <= text.length; from += STRIDE)
    kept.push(kept[kept.length - 1]! + utf8Length(text, from, from + STRIDE));
  return (index) => {
    const at = Math.max(0, Math.min(index, text.length));
    const stride = Math.floor(at / STRIDE);
    return kept[stride]! + utf8Length(text, stride * STRIDE, at);
  };
}

/** Bytes of a range of characters; the halves of a surrogate pair count two bytes each. */
function utf8Length(text: string, from: number, to: number): number {
  let length = 0;
  for (let i = from; i < to; i++) {
    const code = text.charCodeAt(i);
    length += code < 0x80 ? 1 : code < 0x800 || (code & 0xf800) === 0xd800 ? 2 : 3;
  }
  return length;
}

/** Lines with their places in bytes, line ends left out. */
export function linesOf(bytes: Uint8Array): TextLine[] {
  const encoding = encodingOf(bytes);
  const wide = encoding.startsWith('utf-16');
  const decoder = new TextDecoder(encoding, { ignoreBOM: true });
  const lines: TextLine[] = [];
  for (let start = 0; start < bytes.length;) {
    const end = wide ? wideEnd(bytes, start, encoding === 'utf-16le') : narrowEnd(bytes, start);
    const text = decoder.decode(bytes.subarray(start, end)).replace(/\r$/, '');
    lines.push({
      text: start === 0 ? text.replace(/^\ufeff/, '') : text,
      offset: start,
      length: end - start
    });
    start = end + (wide ? 2 : 1);
  }
  return lines;
}

function narrowEnd(bytes: Uint8Array, from: number): number {
  const at = bytes.indexOf(10, from);
  return at < 0 ? bytes.length : at;
}

function wideEnd(bytes: Uint8Array, from: number, little: boolean): number {
  for (let at = from; at + 1 < bytes.length; at += 2) {
    if (bytes[little ? at : at + 1] === 10 && bytes[little ? at + 1 : at] === 0) return at;
  }
  return bytes.length;
}
