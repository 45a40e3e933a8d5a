import { gunzipSync, inflateSync, unzlibSync } from 'fflate';
import { decodeStrict, decodeText, isPlausibleText } from '../host';

/** Unpacked bytes of one value beyond which it is no text that somebody wrote. */
const MOST_BYTES = 16 << 20;

/** How bytes that stand for a text are kept. */
export type TextForm = 'utf-8' | 'utf-16le' | 'utf-16be' | 'packed';

export const TEXT_FORMS = ['utf-8', 'utf-16le', 'utf-16be', 'packed'] as const;

/** The text that bytes of a form stand for; null when they are none. */
export function textOfBytes(bytes: Uint8Array, form: TextForm): string | null {
  if (form !== 'packed') return decodeText(bytes, form);
  const plain = unpacked(bytes);
  return plain && decodeStrict(plain, 'utf-8');
}

/** The form in which bytes read as a text; null when none does. */
export function formOf(bytes: Uint8Array): TextForm | null {
  for (const form of TEXT_FORMS) if (isTextIn(bytes, form)) return form;
  return null;
}

function isTextIn(bytes: Uint8Array, form: TextForm): boolean {
  if (bytes.length === 0) return false;
  if (form === 'packed') return textOfBytes(bytes, form) !== null;
  if (form !== 'utf-8' && bytes.length % 2 === 1) return false;
  const text = decodeStrict(bytes, form);
  if (text === null || !isPlausibleText(text.replaceAll('\0', form === 'utf-8' ? '\0' : '\u0001')))
    return false;
  return form === 'utf-8' || readsInUnits(text);
}

/** Any even number of bytes is some text in 16-bit units: one that people wrote stays within few blocks. */
function readsInUnits(text: string): boolean {
  let usual = 0;
  for (const char of text) if (/[\p{L}\p{M}\p{P}\p{Zs}\p{N}\p{Emoji}\s]/u.test(char)) usual++;
  const blocks = new Set(Array.from(text, (char) => char.codePointAt(0)! >> 8));
  return usual >= text.length * 0.8 && blocks.size <= 2 + text.length / 16;
}

/** Frames of RFC 1952 and RFC 1950 by their first bytes, else a bare deflate stream (RFC 1951). */
function unpacked(bytes: Uint8Array): Uint8Array | null {
  if (bytes.length < 3) return null;
  // A sum of two bytes that 31 divides stands before a framed stream; a small value cannot be a large text.
  const isZlib = (bytes[0]! & 15) === 8 && ((bytes[0]! << 8) | bytes[1]!) % 31 === 0;
  const isGzip = bytes[0] === 0x1f && bytes[1] === 0x8b;
  try {
    const out = new Uint8Array(Math.min(MOST_BYTES, bytes.length * 1100));
    const plain = isGzip
      ? gunzipSync(bytes, { out })
      : isZlib
        ? unzlibSync(bytes, { out })
        : inflateSync(bytes, { out });
    return plain.length > 0 && plain.length < MOST_BYTES ? plain : null;
  } catch (error) {
    // Bytes that are no packed stream are no packed text.
    if (error instanceof Error) return null;
    throw error;
  }
}
