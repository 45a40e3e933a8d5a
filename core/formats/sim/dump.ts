import { fromHex, type ByteSource } from '../../host';
import { cardFileOf, type CardFile } from './files';
import { readSmsRecord, SMS_RECORD, type CardContent } from './records';

/** An elementary file found in a source. */
export interface FoundFile {
  file: CardFile;
  content: CardContent;
}

/** A card holds little; larger files are no dumps of one. */
export const MOST_DUMP = 4 << 20;

/** The elementary file that a file of a source is, by its name and what it holds; null when either speaks against it. */
export function elementaryFile(path: string, source: ByteSource): FoundFile | null {
  if (source.size === 0 || source.size > MOST_DUMP) return null;
  const raw = source.read(0, source.size);
  const hex = asHex(raw);
  const bytes = hex ?? raw;
  const content: CardContent = {
    bytes,
    path,
    offset: 0,
    digits: hex ? digitsIn(raw) : null,
    record: null
  };
  const named = cardFileOf(path);
  if (named === 'sms' || named === null) {
    return holdsMessages(bytes) ? { file: 'sms', content } : null;
  }
  return { file: named, content };
}

/** A file that is nothing but one run of hex digits, without blanks, so that offsets can be told. */
function asHex(raw: Uint8Array): Uint8Array | null {
  if (raw.length < 20) return null;
  const text = new TextDecoder('latin1').decode(raw).trimEnd();
  return /^[0-9a-f]+$/i.test(text) ? fromHex(text) : null;
}

/** Whole records only, each a message or free, and at least one message. */
function holdsMessages(bytes: Uint8Array): boolean {
  if (bytes.length % SMS_RECORD !== 0) return false;
  let messages = 0;
  for (let at = 0; at < bytes.length; at += SMS_RECORD) {
    const record = bytes.subarray(at, at + SMS_RECORD);
    if (readSmsRecord(record)) messages++;
    else if (!isFree(record)) return false;
  }
  return messages > 0;
}

/** A free record: its status says so, and it is filled, wiped or holds what no longer reads. */
function isFree(record: Uint8Array): boolean {
  return record[0] === 0 || record.every((byte) => byte === 0xff);
}

const HEX_RUN = /(?:[0-9a-f]{2}[ \t:]?){10,}/gi;
const latin = new TextDecoder('latin1');

/**
 * Elementary files out of a text: a record of commands and answers, or
 * headings that name a file with runs of hex digits below or beside them.
 */
export function filesInText(path: string, raw: Uint8Array): FoundFile[] {
  const text = latin.decode(raw);
  const found = filesInCommands(path, text);
  return found.length > 0 ? found : filesUnderHeadings(path, text);
}

function filesUnderHeadings(path: string, text: string): FoundFile[] {
  const out: FoundFile[] = [];
  let current: CardFile | null = null;
  let at = 0;
  for (const line of text.split('\n')) {
    const label = /^[^=:]*(?=[=:])|^\S+$/.exec(line.trim())?.[0] ?? line.trim();
    const named = headed(label);
    if (named) current = named;
    for (const run of line.matchAll(HEX_RUN)) {
      const content = hexContent(path, at + run.index, run[0]);
      if (current && content) out.push({ file: current, content });
    }
    at += line.length + 1;
  }
  return merged(out);
}

function headed(label: string): CardFile | null {
  for (const word of label.split(/[\s"'<>()[\]]+/).reverse()) {
    const file = word.length <= 40 ? cardFileOf(word) : null;
    if (file) return file;
  }
  return null;
}

/** A run of digits as content; each record stays a content of its own, so that its place can be told. */
function hexContent(path: string, offset: number, run: string): CardContent | null {
  const bare = run.replace(/[\s:]/g, '');
  const bytes = fromHex(bare);
  if (!bytes) return null;
  return { bytes, path, offset, digits: digitsIn(latinBytes(run)), record: bytes.length };
}

/** Where the first digit of each pair lies in a run of hex digits with blanks or colons between. */
function digitsIn(run: Uint8Array): Uint32Array {
  const places: number[] = [];
  for (let at = 0; at < run.length; at++) {
    if (!isHexDigit(run[at]!)) continue;
    places.push(at);
    at++;
  }
  return Uint32Array.from(places);
}

function latinBytes(text: string): Uint8Array {
  return Uint8Array.from(text, (char) => char.charCodeAt(0));
}

function isHexDigit(code: number): boolean {
  return (code >= 0x30 && code <= 0x39) || ((code | 0x20) >= 0x61 && (code | 0x20) <= 0x66);
}

const BLANK = 0x20;

/** The pairs of digits that end a line, each with a blank behind it or none; null where fewer than two pairs do. */
function hexAtEnd(line: string): { index: number; text: string } | null {
  const trimmed = line.trimEnd();
  let at = trimmed.length;
  let pairs = 0;
  for (;;) {
    const before = pairs > 0 && trimmed.charCodeAt(at - 1) === BLANK ? at - 1 : at;
    if (before < 2) break;
    if (!isHexDigit(trimmed.charCodeAt(before - 1)) || !isHexDigit(trimmed.charCodeAt(before - 2)))
      break;
    at = before - 2;
    pairs++;
  }
  return pairs < 2 ? null : { index: at, text: trimmed.slice(at) };
}

/** A file of one run may hold many records; several runs are one record each. */
function merged(found: FoundFile[]): FoundFile[] {
  const counts = new Map<CardFile, number>();
  for (const { file } of found) counts.set(file, (counts.get(file) ?? 0) + 1);
  return found.map(({ file, content }) => ({
    file,
    content: counts.get(file) === 1 ? { ...content, record: null } : content
  }));
}

const SELECT = 0xa4;
const READ_BINARY = 0xb0;
const READ_RECORD = 0xb2;

/** Commands and their answers in turn (ISO 7816-4, sections 11.2 and 11.3): a selection, then what is read from it. */
function filesInCommands(path: string, text: string): FoundFile[] {
  const out: FoundFile[] = [];
  let current: CardFile | null = null;
  let reading = false;
  let at = 0;
  for (const line of text.split('\n')) {
    const run = hexAtEnd(line);
    const bytes = run && fromHex(run.text.replaceAll(' ', ''));
    if (run && bytes) {
      const [kind, instruction] = [bytes[0]!, bytes[1]!];
      const command = (kind === 0xa0 || kind === 0x00) && bytes.length >= 5;
      if (command && instruction === SELECT) {
        const id = Array.from(bytes.subarray(-2), (b) => b.toString(16).padStart(2, '0')).join('');
        current = cardFileOf(id);
        reading = false;
      } else if (command && bytes.length === 5 && isRead(instruction)) reading = true;
      else if (reading && current && endsWell(bytes)) {
        const content = hexContent(path, at + run.index, run.text);
        const whole = content && {
          ...content,
          bytes: bytes.subarray(0, -2),
          record: bytes.length - 2
        };
        if (whole) out.push({ file: current, content: whole });
        reading = false;
      }
    }
    at += line.length + 1;
  }
  return out;
}

function isRead(instruction: number): boolean {
  return instruction === READ_RECORD || instruction === READ_BINARY;
}

/** The status words of an answer that holds data. */
function endsWell(bytes: Uint8Array): boolean {
  const sw = bytes[bytes.length - 2];
  return bytes.length > 3 && (sw === 0x90 || sw === 0x9f || sw === 0x61 || sw === 0x91);
}

/** Neighbouring records that make it sure that a binary image holds EF_SMS there. */
const SURE = 2;

/** Looks for runs of message records at any offset of a binary image. */
export function filesInImage(path: string, bytes: Uint8Array): FoundFile[] {
  const out: FoundFile[] = [];
  for (let at = 0; at + SMS_RECORD <= bytes.length;) {
    const end = runEnd(bytes, at);
    if (end === null) {
      at++;
      continue;
    }
    const content = {
      bytes: bytes.subarray(at, end),
      path,
      offset: at,
      digits: null,
      record: null
    };
    out.push({ file: 'sms', content });
    at = end;
  }
  return out;
}

/** The end of a run of records that begins here; null when none does. */
function runEnd(bytes: Uint8Array, start: number): number | null {
  if (!filledRecord(bytes, start)) return null;
  let messages = 0;
  let at = start;
  for (; at + SMS_RECORD <= bytes.length; at += SMS_RECORD) {
    if (filledRecord(bytes, at)) messages++;
    else if (!isFree(bytes.subarray(at, at + SMS_RECORD)) || bytes[at] !== 0) break;
  }
  return messages >= SURE ? at : null;
}

/** A message whose rest is filled: chance hardly makes one. */
function filledRecord(bytes: Uint8Array, at: number): boolean {
  if (bytes[at]! > 0x1f) return false;
  const record = bytes.subarray(at, at + SMS_RECORD);
  if (record.length < SMS_RECORD) return false;
  const read = readSmsRecord(record);
  return read !== null && read.tpdu.address !== '' && record[SMS_RECORD - 1] === 0xff;
}
