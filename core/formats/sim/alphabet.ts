/** The default alphabet of TS 23.038, section 6.2.1; U+001B stands for the escape. */
const DEFAULT =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞ\u001bÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?' +
  '¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà';

const EXTENSION: Record<number, string> = {
  0x0a: '\f',
  0x14: '^',
  0x28: '{',
  0x29: '}',
  0x2f: '\\',
  0x3c: '[',
  0x3d: '~',
  0x3e: ']',
  0x40: '|',
  0x65: '€'
};

/** National locking shift tables, annex A.3: identifier to alphabet. */
const LOCKING: Record<number, string> = {
  1:
    '@£$¥€éùıòÇ\nĞğ\rÅåΔ_ΦΓΛΩΠΨΣΘΞ\u001bŞşßÉ !"#¤%&\'()*+,-./0123456789:;<=>?' +
    'İABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§çabcdefghijklmnopqrstuvwxyzäöñüà',
  3:
    '@£$¥êéúíóç\nÔô\rÁáΔ_ªÇÀ∞^\\€Ó|\u001bÂâÊÉ !"#º%&\'()*+,-./0123456789:;<=>?' +
    'ÍABCDEFGHIJKLMNOPQRSTUVWXYZÃÕÚÜ§~abcdefghijklmnopqrstuvwxyzãõ`üà'
};

/** National single shift tables, annex A.2. */
const SINGLE: Record<number, Record<number, string>> = {
  1: { ...EXTENSION, 0x47: 'Ğ', 0x49: 'İ', 0x53: 'Ş', 0x63: 'ç', 0x67: 'ğ', 0x69: 'ı', 0x73: 'ş' },
  2: {
    ...EXTENSION,
    0x09: 'ç',
    0x41: 'Á',
    0x49: 'Í',
    0x4f: 'Ó',
    0x55: 'Ú',
    0x61: 'á',
    0x69: 'í',
    0x6f: 'ó',
    0x75: 'ú'
  },
  3: {
    ...EXTENSION,
    0x05: 'ê',
    0x09: 'ç',
    0x0b: 'Ô',
    0x0c: 'ô',
    0x0e: 'Á',
    0x0f: 'á',
    0x12: 'Φ',
    0x13: 'Γ',
    0x15: 'Ω',
    0x16: 'Π',
    0x17: 'Ψ',
    0x18: 'Σ',
    0x19: 'Θ',
    0x1f: 'Ê',
    0x41: 'À',
    0x49: 'Í',
    0x4f: 'Ó',
    0x55: 'Ú',
    0x5b: 'Ã',
    0x5c: 'Õ',
    0x61: 'Â',
    0x69: 'í',
    0x6f: 'ó',
    0x75: 'ú',
    0x7b: 'ã',
    0x7c: 'õ',
    0x7f: 'â'
  }
};

export interface Shifts {
  locking: number;
  single: number;
}

export const NO_SHIFTS: Shifts = { locking: 0, single: 0 };

/** Whether the tables that a message asks for are known here. */
export function knowsShifts({ locking, single }: Shifts): boolean {
  return (locking === 0 || locking in LOCKING) && (single === 0 || single in SINGLE);
}

/** Septets to text; an escape before an unknown character shows that character of the main table. */
export function decodeSeptets(septets: ArrayLike<number>, shifts: Shifts = NO_SHIFTS): string {
  const main = LOCKING[shifts.locking] ?? DEFAULT;
  const shifted = SINGLE[shifts.single] ?? EXTENSION;
  let out = '';
  for (let i = 0; i < septets.length; i++) {
    const code = septets[i]! & 0x7f;
    if (code !== 0x1b) out += main[code];
    else if (++i < septets.length) out += shifted[septets[i]! & 0x7f] ?? main[septets[i]! & 0x7f];
  }
  return out;
}

/** Takes septets out of octets, beginning at a bit (TS 23.038, section 6.1.2.1). */
export function unpackSeptets(bytes: Uint8Array, count: number, firstBit = 0): number[] {
  const out: number[] = [];
  for (let i = 0; i < count; i++) {
    const bit = firstBit + i * 7;
    const at = bit >> 3;
    if (at >= bytes.length) break;
    const pair = bytes[at]! | ((bytes[at + 1] ?? 0) << 8);
    out.push((pair >> (bit & 7)) & 0x7f);
  }
  return out;
}

const utf16 = new TextDecoder('utf-16be');

/**
 * An alpha field of a card (TS 51.011, annex B; TS 31.102): the default
 * alphabet one octet a character, or one of three UCS-2 codings.
 */
export function decodeAlpha(field: Uint8Array): string {
  switch (field[0]) {
    case 0x80:
      return trimmed(utf16.decode(evenLength(field.subarray(1))));
    case 0x81:
      return coded(field.subarray(3), field[1] ?? 0, (field[2] ?? 0) << 7);
    case 0x82:
      return coded(field.subarray(4), field[1] ?? 0, ((field[2] ?? 0) << 8) | (field[3] ?? 0));
    default:
      return decodeSeptets(untilFill(field));
  }
}

function coded(bytes: Uint8Array, count: number, base: number): string {
  let out = '';
  for (const byte of bytes.subarray(0, count)) {
    out += byte & 0x80 ? String.fromCharCode(base + (byte & 0x7f)) : decodeSeptets([byte]);
  }
  return out;
}

function untilFill(field: Uint8Array): Uint8Array {
  const end = field.indexOf(0xff);
  return end < 0 ? field : field.subarray(0, end);
}

function evenLength(bytes: Uint8Array): Uint8Array {
  return bytes.subarray(0, bytes.length & ~1);
}

/** Unused characters of a UCS-2 field are U+FFFF. */
function trimmed(text: string): string {
  const end = text.indexOf('\uffff');
  return (end < 0 ? text : text.slice(0, end)).replace(/\0+$/, '');
}
