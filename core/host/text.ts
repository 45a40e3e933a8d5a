import { isShared } from './shared';

/** Text encodings that a SQLite file can declare (header offset 56). */
export type TextEncoding = 'utf-8' | 'utf-16le' | 'utf-16be';

const decoders: Record<TextEncoding, TextDecoder> = {
  'utf-8': new TextDecoder('utf-8', { ignoreBOM: true }),
  'utf-16le': new TextDecoder('utf-16le', { ignoreBOM: true }),
  'utf-16be': new TextDecoder('utf-16be', { ignoreBOM: true })
};
const strictDecoders: Record<TextEncoding, TextDecoder> = {
  'utf-8': new TextDecoder('utf-8', { ignoreBOM: true, fatal: true }),
  'utf-16le': new TextDecoder('utf-16le', { ignoreBOM: true, fatal: true }),
  'utf-16be': new TextDecoder('utf-16be', { ignoreBOM: true, fatal: true })
};

/** Decodes for reading; what is malformed becomes U+FFFD and nothing is trimmed. */
export function decodeText(bytes: Uint8Array, encoding: TextEncoding): string {
  if (encoding === 'utf-8' && bytes.length <= LONGEST_SHORT) {
    const short = shortAscii(bytes);
    if (short !== null) return short;
  }
  return decoders[encoding].decode(unshared(bytes));
}

/** Decoders of browsers refuse memory that threads share. */
function unshared(bytes: Uint8Array): Uint8Array {
  return isShared(bytes) ? bytes.slice() : bytes;
}

/** Above this the decoder is quicker, measured. */
const LONGEST_SHORT = 16;

/** Short plain runs are the usual case (addresses, status words); the decoder's call overhead outweighs them. */
function shortAscii(bytes: Uint8Array): string | null {
  for (let i = 0; i < bytes.length; i++) if (bytes[i]! >= 0x80) return null;
  return String.fromCharCode.apply(null, bytes as unknown as number[]);
}

/** Decodes text whose end is gone: a character that was cut in two goes with the lost part. */
export function decodeCut(bytes: Uint8Array, encoding: TextEncoding): string {
  return new TextDecoder(encoding, { ignoreBOM: true }).decode(unshared(bytes), { stream: true });
}

/** Decodes only if every byte is well formed; otherwise null. */
export function decodeStrict(bytes: Uint8Array, encoding: TextEncoding): string | null {
  try {
    return strictDecoders[encoding].decode(unshared(bytes));
  } catch (error) {
    if (error instanceof TypeError) return null;
    throw error;
  }
}

/**
 * Whether text reads like something a person or an app wrote: no C0 controls
 * beyond tab and line ends, no noncharacters, no replacement characters.
 */
export function isPlausibleText(text: string): boolean {
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code < 0x20 ? code !== 9 && code !== 10 && code !== 13 : code === 0x7f) return false;
    if (code >= 0xfffd || (code >= 0xfdd0 && code <= 0xfdef)) return false;
  }
  return true;
}

const units = new TextDecoder('utf-16le', { ignoreBOM: true });
/** Bytes that are widened at once. */
const WIDENED = 1 << 20;

/** Every byte as the sign of its number (ISO 8859-1 with its control codes): patterns run over it, and places in it are those of the bytes. */
export function byteText(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += WIDENED)
    text += units.decode(new Uint16Array(bytes.subarray(at, at + WIDENED)));
  return text;
}

/** The bytes of such a text. */
export function textBytes(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at++) bytes[at] = text.charCodeAt(at);
  return bytes;
}
