import { decodeAlpha } from './alphabet';
import type { CardPlace, CardRecord } from './join';
import { decodeDigits, decodeNumber } from './number';
import { parseMessage } from './tpdu';

/** A record of EF_SMS: a status octet, the service centre, the TPDU, filled with 0xFF (TS 51.011, section 10.5.3). */
export const SMS_RECORD = 176;

/** Content of an elementary file and where its first byte lies. */
export interface CardContent {
  bytes: Uint8Array;
  path: string;
  offset: number;
  /** Where each byte's first hex digit lies behind `offset`, where the content is kept as digits; null where it is kept as bytes. */
  digits: Uint32Array | null;
  /** Length of a record, where it was told. */
  record: number | null;
}

/** Digits of one byte. */
const DIGITS = 2;

function placeIn(content: CardContent, at: number, length: number): CardPlace {
  const { path, offset, digits } = content;
  if (!digits) return { path, offset: offset + at, length };
  const [first, last] = [digits[at]!, digits[at + length - 1]!];
  return { path, offset: offset + first, length: last + DIGITS - first };
}

/** All records of EF_SMS that hold a message, deleted ones too. */
export function readSms(content: CardContent): CardRecord[] {
  const out: CardRecord[] = [];
  const step = content.record ?? SMS_RECORD;
  for (let at = 0; at + 20 <= content.bytes.length; at += step) {
    const record = readSmsRecord(content.bytes.subarray(at, at + step));
    if (record)
      out.push({
        ...record,
        place: placeIn(content, at, Math.min(step, content.bytes.length - at))
      });
  }
  return out;
}

/** Status: bit 1 says that the record is used, bits 2 and 3 what for. */
export function readSmsRecord(record: Uint8Array): Omit<CardRecord, 'place'> | null {
  const status = record[0] ?? 0xff;
  if (status > 0x1f) return null;
  const tpdu = parseMessage(record.subarray(1));
  return tpdu && { tpdu, deleted: (status & 1) === 0 };
}

export interface CardContact {
  name: string;
  number: string;
  place: CardPlace;
}

/** Fixed part of a dialling number record behind its alpha field (TS 51.011, section 10.5.1). */
const NUMBER_TAIL = 14;
const MOST_ALPHA = 241;

/** Records of EF_ADN, FDN, LND, MSISDN and the like. */
export function readNumbers(content: CardContent, extensions: CardContent | null): CardContact[] {
  const { bytes } = content;
  const length = content.record ?? numberRecordLength(bytes);
  if (length === null) return [];
  const out: CardContact[] = [];
  for (let at = 0; at + length <= bytes.length; at += length) {
    const record = bytes.subarray(at, at + length);
    if (record.every((byte) => byte === 0xff)) continue;
    const name = decodeAlpha(record.subarray(0, length - NUMBER_TAIL)).trim();
    const number = numberOf(record.subarray(length - NUMBER_TAIL), extensions);
    if (name !== '' || number !== '')
      out.push({ name, number, place: placeIn(content, at, length) });
  }
  return out;
}

function numberOf(tail: Uint8Array, extensions: CardContent | null): string {
  const length = tail[0]!;
  if (length < 1 || length > 11) return '';
  const digits = decodeNumber(tail[1]!, tail.subarray(2, 1 + length));
  const extension = tail[13]!;
  return extension === 0xff || !extensions ? digits : digits + extended(extensions, extension);
}

/** Extension records of 13 octets: type, length, ten octets of digits, the next record (section 10.5.10). */
const EXTENSION_RECORD = 13;
const ADDITIONAL = 2;

function extended({ bytes }: CardContent, first: number): string {
  let out = '';
  const seen = new Set<number>();
  for (let number = first; number !== 0xff && !seen.has(number);) {
    seen.add(number);
    const record = bytes.subarray((number - 1) * EXTENSION_RECORD, number * EXTENSION_RECORD);
    if (record.length < EXTENSION_RECORD || (record[0]! & 3) !== ADDITIONAL || record[1]! > 10)
      break;
    out += decodeDigits(record.subarray(2, 2 + record[1]!));
    number = record[12]!;
  }
  return out;
}

/** The record length under which every record makes sense; the shortest of several, since longer ones are its multiples. */
function numberRecordLength(bytes: Uint8Array): number | null {
  for (let length = NUMBER_TAIL; length <= NUMBER_TAIL + MOST_ALPHA; length++) {
    if (bytes.length % length === 0 && fitsNumbers(bytes, length)) return length;
  }
  return null;
}

function fitsNumbers(bytes: Uint8Array, length: number): boolean {
  let used = 0;
  for (let at = 0; at < bytes.length; at += length) {
    const record = bytes.subarray(at, at + length);
    if (record.every((byte) => byte === 0xff)) continue;
    if (!isNumberTail(record.subarray(length - NUMBER_TAIL))) return false;
    used++;
  }
  return used > 0;
}

function isNumberTail(tail: Uint8Array): boolean {
  const [length, type] = [tail[0]!, tail[1]!];
  if (length === 0xff) return tail.subarray(2, 12).every((byte) => byte === 0xff);
  if (length < 1 || length > 11 || ((type & 0x80) === 0 && type !== 0xff)) return false;
  return tail.subarray(1 + length, 12).every((byte) => byte === 0xff);
}

/** The identifier of the card: ten octets of swapped digits. */
export function readIccid(bytes: Uint8Array): string | null {
  const digits = decodeDigits(bytes.subarray(0, 10));
  return /^\d{18,20}$/.test(digits) ? digits : null;
}

/** The subscriber's identity: a length, then digits behind a half octet that tells their parity. */
export function readImsi(bytes: Uint8Array): string | null {
  const length = bytes[0] ?? 0;
  if (length < 1 || length > 8) return null;
  const digits = decodeDigits(bytes.subarray(1, 1 + length)).slice(1);
  return /^\d{6,15}$/.test(digits) ? digits : null;
}

/** Fixed part of a record of EF_SMSP (section 10.5.6): indicators, destination, service centre, three octets. */
const PARAMETERS = 28;

export function readServiceCentres(content: CardContent): string[] {
  const { bytes } = content;
  const length = content.record ?? parametersLength(bytes);
  const out: string[] = [];
  for (let at = 0; length !== null && at + length <= bytes.length; at += length) {
    const centre = bytes.subarray(at + length - PARAMETERS + 13, at + length - 3);
    const size = centre[0]!;
    if (size >= 2 && size <= 11) out.push(decodeNumber(centre[1]!, centre.subarray(2, 1 + size)));
  }
  return out.filter((number) => number !== '');
}

function parametersLength(bytes: Uint8Array): number | null {
  for (let length = PARAMETERS; length <= PARAMETERS + MOST_ALPHA; length++) {
    if (bytes.length % length !== 0) continue;
    const fits = [...Array(bytes.length / length).keys()].every((n) => {
      const record = bytes.subarray(n * length, (n + 1) * length);
      const size = record[length - PARAMETERS + 13]!;
      return size === 0xff || (size <= 11 && (record[length - PARAMETERS]! & 0xe0) === 0xe0);
    });
    if (fits) return length;
  }
  return null;
}
