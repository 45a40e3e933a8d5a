/**
 * The wording of an attributed string archived as a typed stream: a class
 * name, then the mark `84 01 2b` and the string with its length in front.
 */
const CLASS_NAMES = ['NSMutableString', 'NSString'];
const utf8 = new TextDecoder('utf-8', { ignoreBOM: true });

/** Returns null when the bytes hold no such string or end inside it. */
export function textOfTypedStream(bytes: Uint8Array): string | null {
  for (const name of CLASS_NAMES) {
    const at = indexOf(bytes, ascii(name), 0);
    if (at < 0) continue;
    const mark = indexOf(bytes, [0x84, 0x01, 0x2b], at);
    if (mark >= 0) return readString(bytes, mark + 3);
  }
  return null;
}

/** Lengths below 0x80 take one byte; 0x81 announces two bytes, 0x82 four, little endian. */
function readString(bytes: Uint8Array, at: number): string | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const first = bytes[at];
  if (first === undefined) return null;
  let start = at + 1;
  let length = first;
  if (first === 0x81 || first === 0x82) {
    const size = first === 0x81 ? 2 : 4;
    if (start + size > bytes.length) return null;
    length = size === 2 ? view.getUint16(start, true) : view.getUint32(start, true);
    start += size;
  } else if (first > 0x82) return null;
  if (start + length > bytes.length) return null;
  return utf8.decode(bytes.subarray(start, start + length));
}

function ascii(text: string): number[] {
  return Array.from(text, (char) => char.charCodeAt(0));
}

function indexOf(bytes: Uint8Array, what: number[], from: number): number {
  for (let at = from; at + what.length <= bytes.length; at++) {
    if (what.every((byte, i) => bytes[at + i] === byte)) return at;
  }
  return -1;
}
