import { concatBytes } from '@noble/hashes/utils.js';
import { Gunzip, Unzlib } from 'fflate';
import { byteText, MemorySource } from '../../host';
import { entryBytes, zipEntries, type ZipEntry } from '../../formats';
import { readingsOf } from './escapes';
import { pdfTexts } from './pdf-text';
import type { LetGo } from './let-go';
import type { DecodedText } from './types';

/** Packages inside packages beyond this are not opened. */
const DEEPEST = 4;
/** Bytes that one packed part may unpack to. */
const MOST_UNPACKED = 256 << 20;
/** Packed bytes that are taken at once. */
const STEP = 1 << 16;

const utf8 = new TextDecoder('utf-8');
const latin = new TextDecoder('windows-1252');

/** Heads of packages and locked files that are not opened here. */
const CLOSED = [
  '7z\xbc\xaf\x27\x1c',
  'Rar!\x1a\x07',
  '\xfd7zXZ\0',
  'BZh',
  '\x28\xb5\x2f\xfd',
  '\x04\x22\x4d\x18',
  '-----BEGIN PGP MESSAGE'
];
/** Name of the stream in which a locked office file keeps all of its bytes, in UTF-16. */
const LOCKED_OFFICE = [...'EncryptedPackage'].map((char) => `${char}\0`).join('');

/**
 * Every text that can be read in a file: as it stands in the encodings that
 * are in use, without markup and its escapes, in the parts of archives and
 * office files, in the streams of a PDF, in packed text of a PNG, in mails'
 * encoded parts. Parts that cannot be read are told.
 */
export async function* decodedTexts(
  bytes: Uint8Array,
  where = '',
  depth = 0,
  letGo: LetGo | null = null
): AsyncGenerator<DecodedText> {
  if (bytes.length === 0 || letGo?.has(bytes)) return;
  const isZip = startsWith(bytes, 'PK\x03\x04') || startsWith(bytes, 'PK\x05\x06');
  const isGzip = startsWith(bytes, '\x1f\x8b\x08');
  const isPdf = startsWith(bytes, '%PDF-');
  const isTooDeep = depth >= DEEPEST && (isZip || isGzip || isPdf);
  if (isTooDeep || isClosed(bytes)) yield { where, text: null };
  else if (isZip) yield* zipTexts(bytes, where, depth, letGo);
  else if (isGzip)
    yield* packedTexts(unpacked(Gunzip, bytes), joined(where, 'unpacked'), depth, letGo);
  else if (isPdf) {
    // Its packed streams are no texts as they stand.
    yield* pagesTexts(bytes, where, depth, letGo);
    return;
  } else if (startsWith(bytes, '\x89PNG')) yield* pngTexts(bytes, where);
  yield* plainTexts(bytes, where, depth, letGo);
}

function isClosed(bytes: Uint8Array): boolean {
  if (CLOSED.some((head) => startsWith(bytes, head))) return true;
  return startsWith(bytes, '\xd0\xcf\x11\xe0') && byteText(bytes).includes(LOCKED_OFFICE);
}

function startsWith(bytes: Uint8Array, head: string): boolean {
  return [...head].every((char, i) => bytes[i] === char.charCodeAt(0));
}

function joined(a: string, b: string): string {
  return a === '' || b === '' ? a + b : `${a}, ${b}`;
}

interface Unpacked {
  bytes: Uint8Array;
  /** Whether all was unpacked. */
  isWhole: boolean;
}

/** What comes out of packed bytes, all members of them, up to damage or the limit. */
function unpacked(Stream: typeof Gunzip | typeof Unzlib, packed: Uint8Array): Unpacked {
  const chunks: Uint8Array[] = [];
  let size = 0;
  let isWhole = false;
  const stream = new Stream((chunk, isLast) => {
    chunks.push(chunk);
    size += chunk.length;
    isWhole = isLast ?? false;
  });
  try {
    for (let at = 0; at < packed.length && size <= MOST_UNPACKED; at += STEP)
      stream.push(packed.slice(at, at + STEP), at + STEP >= packed.length);
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    // What came out before the damage is searched, and that it is not all is told.
    isWhole = false;
  }
  return { bytes: concatBytes(...chunks), isWhole: isWhole && size <= MOST_UNPACKED };
}

async function* packedTexts(
  { bytes, isWhole }: Unpacked,
  where: string,
  depth: number,
  letGo: LetGo | null
): AsyncGenerator<DecodedText> {
  if (!isWhole) yield { where, text: null };
  yield* decodedTexts(bytes, where, depth + 1, letGo);
}

async function* pagesTexts(
  bytes: Uint8Array,
  where: string,
  depth: number,
  letGo: LetGo | null
): AsyncGenerator<DecodedText> {
  for (const found of pdfTexts(bytes)) {
    const inside = joined(where, found.where);
    if ('text' in found) yield { where: inside, text: found.text };
    else if (found.where === '') yield* plainTexts(found.bytes, inside, depth, letGo);
    else yield* decodedTexts(found.bytes, inside, depth + 1, letGo);
  }
}

async function* zipTexts(
  bytes: Uint8Array,
  where: string,
  depth: number,
  letGo: LetGo | null
): AsyncGenerator<DecodedText> {
  const zip = new MemorySource('', bytes);
  const entries = entriesOf(zip);
  if (entries === null) {
    yield { where, text: null };
    return;
  }
  const names = entries.flatMap(({ name, comment }) => [name, comment]);
  yield { where: joined(where, 'names of its parts'), text: names.join('\n') };
  for (const entry of entries) {
    const inside = joined(where, entry.name);
    const part = partOf(zip, entry);
    if (part === null) yield { where: inside, text: null };
    else yield* decodedTexts(part, inside, depth + 1, letGo);
  }
}

/** Null where the archive's directory is damaged. */
function entriesOf(zip: MemorySource): ZipEntry[] | null {
  try {
    return zipEntries(zip);
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    return null;
  }
}

/** The bytes of a part; null where it is locked, damaged, too large, or packed in a way that is not known. */
function partOf(zip: MemorySource, entry: ZipEntry): Uint8Array | null {
  if (entry.size > MOST_UNPACKED) return null;
  try {
    return concatBytes(...entryBytes(zip, entry));
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    return null;
  }
}

/** Packed text chunks of a picture (PNG specification, section 11.3.3). */
async function* pngTexts(bytes: Uint8Array, where: string): AsyncGenerator<DecodedText> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 8; at + 12 <= bytes.length;) {
    const length = view.getUint32(at);
    const type = latin.decode(bytes.subarray(at + 4, at + 8));
    const data = bytes.subarray(at + 8, at + 8 + length);
    if (type === 'zTXt' || type === 'iTXt' || type === 'iCCP') {
      // The packed bytes begin behind the last of the zeros that end the words before them.
      for (let zero = data.indexOf(0); zero >= 0; zero = data.indexOf(0, zero + 1))
        for (const skip of [1, 2]) {
          const { bytes } = unpacked(Unzlib, data.subarray(zero + skip));
          yield* decodedTexts(bytes, joined(where, `chunk ${type}`), DEEPEST);
        }
    }
    at += 12 + length;
  }
}

/** A file's own bytes in each encoding that they may be in. */
async function* plainTexts(
  bytes: Uint8Array,
  where: string,
  depth: number,
  letGo: LetGo | null
): AsyncGenerator<DecodedText> {
  const isBinary = bytes.subarray(0, 4096).includes(0);
  if (!isBinary) {
    const text = utf8.decode(bytes);
    yield { where, text };
    if (text.includes('\ufffd')) yield { where, text: latin.decode(bytes) };
    yield* unescaped(text, where, depth, letGo);
    return;
  }
  for (const text of runsOf(bytes)) yield { where, text };
}

/** Stretches of bytes that are text, in one byte a sign or two, whichever half comes first. */
function* runsOf(bytes: Uint8Array): Generator<string> {
  yield* runs(byteText(bytes), bytes);
  for (const encoding of ['utf-16le', 'utf-16be'] as const)
    for (const shift of [0, 1])
      yield* runs(new TextDecoder(encoding).decode(bytes.subarray(shift)), null);
}

/** Signs that a text is made of; others end a run. Units of one byte may be UTF-8. */
const BYTE_RUN = /[\t\n\r\x20-\x7e\x80-\xff]{3,}/g;
const UNIT_RUN =
  /[\t\n\r\x20-\x7e\u00a0-\u06ff\u0900-\u0dff\u0e00-\u0fff\u1e00-\u206f\u3040-\u30ff\u4e00-\u9fff\uac00-\ud7af]{3,}/g;
/** Runs that are searched together. */
const JOINED = 4096;

/** The runs of a text; where its units are bytes, they are read as UTF-8. */
function* runs(text: string, bytes: Uint8Array | null): Generator<string> {
  let some: string[] = [];
  for (const { 0: run, index } of text.matchAll(bytes ? BYTE_RUN : UNIT_RUN)) {
    const isPlain = bytes === null || !/[\x80-\xff]/.test(run);
    some.push(isPlain ? run : utf8.decode(bytes.subarray(index, index + run.length)));
    if (some.length < JOINED) continue;
    yield some.join('\u0001\n');
    some = [];
  }
  if (some.length > 0) yield some.join('\u0001\n');
}

/** The same without markup and escapes: of pages, JSON, links, folded lines and mails. */
async function* unescaped(
  text: string,
  where: string,
  depth: number,
  letGo: LetGo | null
): AsyncGenerator<DecodedText> {
  for (const read of readingsOf(text)) yield { where, text: read };
  if (/^content-transfer-encoding:/im.test(text)) yield* mailTexts(text, where, depth, letGo);
}

/** The encoded parts of a mail and its encoded words (RFC 2045, 2047). */
async function* mailTexts(
  text: string,
  where: string,
  depth: number,
  letGo: LetGo | null
): AsyncGenerator<DecodedText> {
  const words = text.replace(
    /=\?[\w-]+\?([bq])\?([^?]*)\?=(?:\s+(?==\?))?/gi,
    (_, how: string, word: string) =>
      utf8.decode(
        how.toLowerCase() === 'b' ? fromBase64(word) : fromQuoted(word.replaceAll('_', ' '))
      )
  );
  if (words !== text) yield { where: joined(where, 'headers'), text: words };
  for (const [block] of text.matchAll(/(?:^[A-Za-z0-9+/]{4,}={0,2}\r?$\n?)+/gm))
    yield* decodedTexts(fromBase64(block), joined(where, 'an encoded part'), depth + 1, letGo);
  if (/quoted-printable/i.test(text))
    yield { where, text: utf8.decode(fromQuoted(text.replace(/=\r?\n/g, ''))) };
}

function fromBase64(text: string): Uint8Array {
  const bare = text.replace(/[^A-Za-z0-9+/]/g, '');
  const whole = bare.slice(0, bare.length - (bare.length % 4 === 1 ? 1 : 0));
  return Uint8Array.from(atob(whole), (char) => char.charCodeAt(0));
}

function fromQuoted(text: string): Uint8Array {
  const out: number[] = [];
  for (let at = 0; at < text.length; at++) {
    const hex = text[at] === '=' ? /^=[0-9a-f]{2}/i.exec(text.slice(at, at + 3)) : null;
    if (hex) {
      out.push(parseInt(hex[0].slice(1), 16));
      at += 2;
    } else out.push(...new TextEncoder().encode(text[at]));
  }
  return Uint8Array.from(out);
}
