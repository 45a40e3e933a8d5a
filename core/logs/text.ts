import type { TextLine } from './entries';

/** Text of a log in the encoding that its first bytes show: UTF-16 by its mark, UTF-8, else the western single-byte one. */
export function encodingOf(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | 'utf-8' | 'windows-1252' {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return 'utf-8';
  } catch (error) {
    if (error instanceof TypeError) return 'windows-1252';
    throw error;
  }
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

/** Character positions to byte positions, asked for in rising order. */
export function byteOffsets(page: string, encoding: string): (index: number) => number {
  if (encoding.startsWith('utf-16')) return (index) => index * 2;
  if (encoding === 'windows-1252') return (index) => index;
  let lastIndex = 0;
  let lastOffset = 0;
  const encoder = new TextEncoder();
  return (index) => {
    if (index < lastIndex) [lastIndex, lastOffset] = [0, 0];
    lastOffset += encoder.encode(page.slice(lastIndex, index)).length;
    lastIndex = index;
    return lastOffset;
  };
}
