import { bcd, packSeptets } from './card';

const BASIC =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞ\u001bÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà';
const CENTRE = Buffer.concat([Buffer.from([7, 0x91]), bcd('447700900900')]);

function address(number: string): Buffer {
  const digits = number.replace('+', '');
  return Buffer.concat([
    Buffer.from([digits.length, number.startsWith('+') ? 0x91 : 0x81]),
    bcd(digits)
  ]);
}

/** Half octets swapped, in UTC. */
function stamp(at: number): Buffer {
  const text = new Date(at).toISOString().replace(/\D/g, '').slice(2, 14);
  return Buffer.concat([bcd(text), Buffer.from([0])]);
}

function isBasic(text: string): boolean {
  return [...text].every((char) => BASIC.includes(char));
}

function septetsOf(text: string): number[] {
  return Array.from(text, (char) => BASIC.indexOf(char));
}

function wide(text: string): Buffer {
  const bytes = Buffer.from(text, 'utf16le');
  return bytes.swap16();
}

/** The coding scheme, the length and the text. */
function content(text: string, head: Buffer): { dcs: number; data: Buffer } {
  if (isBasic(text)) {
    const skipped = Math.ceil((head.length * 8) / 7);
    const fill = skipped * 7 - head.length * 8;
    const septets = septetsOf(text);
    const packed = packSeptets(septets, fill);
    return { dcs: 0, data: Buffer.concat([Buffer.from([skipped + septets.length]), head, packed]) };
  }
  const bytes = wide(text);
  return { dcs: 8, data: Buffer.concat([Buffer.from([head.length + bytes.length]), head, bytes]) };
}

function incoming(from: string, at: number, text: string, head: Buffer): string {
  const { dcs, data } = content(text, head);
  const first = head.length > 0 ? 0x44 : 0x04;
  return Buffer.concat([
    CENTRE,
    Buffer.from([first]),
    address(from),
    Buffer.from([0, dcs]),
    stamp(at),
    data
  ]).toString('hex');
}

/** A received message with its service centre, in hex (TS 23.040, section 9.2.2.1). */
export function deliver(from: string, at: number, text: string): string {
  return incoming(from, at, text, Buffer.alloc(0));
}

const PART = 152;

/** A long message in parts that name each other. */
export function deliverLong(from: string, at: number, reference: number, text: string): string[] {
  const total = Math.ceil(text.length / PART);
  return Array.from({ length: total }, (_, i) => {
    const head = Buffer.from([5, 0, 3, reference, total, i + 1]);
    return incoming(from, at + i * 2000, text.slice(i * PART, (i + 1) * PART), head);
  });
}

/** A sent message, in hex (section 9.2.2.2); it carries no time. */
export function submit(to: string, text: string): string {
  const { dcs, data } = content(text, Buffer.alloc(0));
  return Buffer.concat([
    CENTRE,
    Buffer.from([0x01, 0]),
    address(to),
    Buffer.from([0, dcs]),
    data
  ]).toString('hex');
}
