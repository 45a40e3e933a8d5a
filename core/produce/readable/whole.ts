/**
 * Whether a picture ends before it is over: what programs still draw of it is
 * a part. Judged by the marks that end each format; types that have none are
 * never called cut.
 */
export function isCutShort(bytes: Uint8Array, mime: string): boolean {
  switch (mime) {
    case 'image/jpeg':
      return !endsAfterScan(bytes);
    case 'image/png':
      return !has(bytes, PNG_END, 8);
    case 'image/webp':
      return bytes.length < 12 || sizeOfRiff(bytes) > bytes.length;
    default:
      return false;
  }
}

/** Start of scan and end of image (ITU T.81, table B.1): coded data never hold the latter. */
const [START_OF_SCAN, END_OF_IMAGE] = [0xda, 0xd9];

function endsAfterScan(bytes: Uint8Array): boolean {
  for (let at = 2; at + 4 <= bytes.length && bytes[at] === 0xff;) {
    const marker = bytes[at + 1]!;
    if (marker === START_OF_SCAN) return has(bytes, [0xff, END_OF_IMAGE], at);
    at += marker === 0xff ? 1 : 2 + ((bytes[at + 2]! << 8) | bytes[at + 3]!);
  }
  return false;
}

/** The chunk that ends a PNG (ISO 15948, 11.2.5). */
const PNG_END = [0x49, 0x45, 0x4e, 0x44];

function has(bytes: Uint8Array, wanted: readonly number[], from: number): boolean {
  for (let at = bytes.indexOf(wanted[0]!, from); at >= 0; at = bytes.indexOf(wanted[0]!, at + 1))
    if (wanted.every((byte, i) => bytes[at + i] === byte)) return true;
  return false;
}

/** The size that the head of a RIFF file states, its eight bytes included. */
function sizeOfRiff(bytes: Uint8Array): number {
  return 8 + new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(4, true);
}
