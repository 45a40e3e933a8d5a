import { decodeSeptets, knowsShifts, NO_SHIFTS, unpackSeptets, type Shifts } from './alphabet';
import { decodeAddress, decodeNumber, decodeTime } from './number';

/** One short message, or one part of a longer one (TS 23.040, section 9.2). */
export interface Tpdu {
  direction: 'incoming' | 'outgoing';
  address: string;
  sentAt: number | null;
  serviceCentre: string | null;
  text: string;
  /** Its place in a longer message; null when it stands alone. */
  part: { reference: number; wide: boolean; total: number; number: number } | null;
  /** Reported instead of written: a delivery report. */
  report: boolean;
  /** A national table was asked for that is not known here, so some characters may be wrong. */
  unsure: boolean;
}

const DELIVER = 0;
const SUBMIT = 1;
const REPORT = 2;

/**
 * Reads what follows the status octet of a card record: the service centre's
 * address, then the TPDU. Null when the bytes do not make a message.
 */
export function parseMessage(bytes: Uint8Array): Tpdu | null {
  const length = bytes[0] ?? 0xff;
  if (length > 11 || length === 1 || length + 2 > bytes.length) return null;
  const serviceCentre =
    length === 0 ? null : decodeNumber(bytes[1]!, bytes.subarray(2, 1 + length));
  const at = 1 + length;
  switch (bytes[at]! & 3) {
    case DELIVER:
      return deliver(bytes, at, serviceCentre);
    case SUBMIT:
      return submit(bytes, at, serviceCentre);
    case REPORT:
      return report(bytes, at, serviceCentre);
    default:
      return null;
  }
}

function deliver(bytes: Uint8Array, at: number, serviceCentre: string | null): Tpdu | null {
  const from = decodeAddress(bytes, at + 1);
  if (!from) return null;
  const sentAt = decodeTime(bytes, from.next + 2);
  if (sentAt === null) return null;
  const content = userData(bytes, from.next + 9, bytes[from.next + 1]!, hasHeader(bytes[at]!));
  if (!content) return null;
  const { address } = from;
  return { direction: 'incoming', address, sentAt, serviceCentre, report: false, ...content };
}

/** Length of the validity period by the two bits that tell its form. */
const VALIDITY = [0, 7, 1, 7];

function submit(bytes: Uint8Array, at: number, serviceCentre: string | null): Tpdu | null {
  const to = decodeAddress(bytes, at + 2);
  if (!to) return null;
  const start = to.next + 2 + VALIDITY[(bytes[at]! >> 3) & 3]!;
  const content = userData(bytes, start, bytes[to.next + 1]!, hasHeader(bytes[at]!));
  if (!content) return null;
  const { address } = to;
  return { direction: 'outgoing', address, sentAt: null, serviceCentre, report: false, ...content };
}

function report(bytes: Uint8Array, at: number, serviceCentre: string | null): Tpdu | null {
  const to = decodeAddress(bytes, at + 2);
  if (!to) return null;
  const sentAt = decodeTime(bytes, to.next);
  if (sentAt === null) return null;
  const status = bytes[to.next + 14] ?? 0xff;
  const text = `Delivery report: ${status < 0x20 ? 'delivered' : status < 0x40 ? 'still trying' : 'not delivered'}`;
  return {
    direction: 'incoming',
    address: to.address,
    sentAt,
    serviceCentre,
    text,
    part: null,
    report: true,
    unsure: false
  };
}

function hasHeader(first: number): boolean {
  return (first & 0x40) !== 0;
}

type Alphabet = 'septets' | 'octets' | 'ucs2';

/** Data coding scheme (TS 23.038, section 4). */
function alphabetOf(dcs: number): Alphabet {
  const group = dcs >> 4;
  if (group >= 12) return group === 14 ? 'ucs2' : group === 15 && dcs & 4 ? 'octets' : 'septets';
  if (group >= 8) return 'septets';
  const kind = (dcs >> 2) & 3;
  return kind === 1 ? 'octets' : kind === 2 ? 'ucs2' : 'septets';
}

interface Header {
  part: Tpdu['part'];
  shifts: Shifts;
  /** Octets of the header with its length. */
  length: number;
}

const NO_HEADER: Header = { part: null, shifts: NO_SHIFTS, length: 0 };

function userData(
  bytes: Uint8Array,
  at: number,
  dcs: number,
  headed: boolean
): Pick<Tpdu, 'text' | 'part' | 'unsure'> | null {
  const length = bytes[at];
  if (length === undefined) return null;
  const alphabet = alphabetOf(dcs);
  const octets = alphabet === 'septets' ? Math.ceil((length * 7) / 8) : length;
  if (octets > 140) return null;
  const data = bytes.subarray(at + 1, at + 1 + octets);
  const header = headed ? readHeader(data) : NO_HEADER;
  if (!header) return null;
  const text = decodeText(data, length, alphabet, header);
  return { text, part: header.part, unsure: !knowsShifts(header.shifts) };
}

const utf16 = new TextDecoder('utf-16be');

function decodeText(data: Uint8Array, length: number, alphabet: Alphabet, header: Header): string {
  switch (alphabet) {
    case 'septets': {
      // Fill bits bring the text behind a header to the next septet.
      const skipped = Math.ceil((header.length * 8) / 7);
      return decodeSeptets(unpackSeptets(data, length - skipped, skipped * 7), header.shifts);
    }
    case 'ucs2': {
      const body = data.subarray(header.length);
      return utf16.decode(body.subarray(0, body.length & ~1));
    }
    case 'octets':
      return printable(data.subarray(header.length));
  }
}

/** Eight-bit data have no alphabet; what reads as text is shown, the rest is no wording. */
function printable(bytes: Uint8Array): string {
  const text = new TextDecoder('latin1').decode(bytes);
  return /[\x00-\x08\x0e-\x1f\x7f-\x9f]/.test(text) ? '' : text;
}

const CONCAT8 = 0x00;
const CONCAT16 = 0x08;
const SINGLE_SHIFT = 0x24;
const LOCKING_SHIFT = 0x25;

function readHeader(data: Uint8Array): Header | null {
  const length = (data[0] ?? 0xff) + 1;
  if (length > data.length) return null;
  const header: Header = { part: null, shifts: { ...NO_SHIFTS }, length };
  for (let at = 1; at + 2 <= length;) {
    const size = data[at + 1]!;
    applyElement(header, data[at]!, data.subarray(at + 2, Math.min(at + 2 + size, length)));
    at += 2 + size;
  }
  return header;
}

function applyElement(header: Header, id: number, value: Uint8Array): void {
  if (id === CONCAT8 && value.length === 3) {
    header.part = partOf(value[0]!, false, value[1]!, value[2]!);
  } else if (id === CONCAT16 && value.length === 4) {
    header.part = partOf((value[0]! << 8) | value[1]!, true, value[2]!, value[3]!);
  } else if (id === SINGLE_SHIFT && value.length === 1) header.shifts.single = value[0]!;
  else if (id === LOCKING_SHIFT && value.length === 1) header.shifts.locking = value[0]!;
}

/** Numbers that make no sense leave the message standing alone (section 9.2.3.24.1). */
function partOf(reference: number, wide: boolean, total: number, number: number): Tpdu['part'] {
  return total > 0 && number > 0 && number <= total ? { reference, wide, total, number } : null;
}
