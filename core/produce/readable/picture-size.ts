/** Width and height in pixels as a picture is seen; null where they cannot be told. */
export interface PictureSize {
  width: number;
  height: number;
}

/** Reads the size of a JPEG, PNG, GIF or WebP from its head. */
export function pictureSize(bytes: Uint8Array, mime: string): PictureSize | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  switch (mime) {
    case 'image/png':
      return bytes.length < 24 ? null : sized(view.getUint32(16), view.getUint32(20));
    case 'image/gif':
      return bytes.length < 10 ? null : sized(view.getUint16(6, true), view.getUint16(8, true));
    case 'image/webp':
      return webpSize(view);
    case 'image/jpeg':
      return jpegSize(bytes, view);
    default:
      return null;
  }
}

function sized(width: number, height: number): PictureSize | null {
  return width > 0 && height > 0 ? { width, height } : null;
}

/** Frame headers SOF0 to SOF15 but those of tables (ITU T.81, B.2.2). */
function jpegSize(bytes: Uint8Array, view: DataView): PictureSize | null {
  for (let at = 2; at + 9 <= bytes.length && bytes[at] === 0xff;) {
    const marker = bytes[at + 1]!;
    if (marker === 0xff) {
      at++;
      continue;
    }
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) {
      const [height, width] = [view.getUint16(at + 5), view.getUint16(at + 7)];
      return orientationOf(bytes) >= 5 ? sized(height, width) : sized(width, height);
    }
    at += 2 + view.getUint16(at + 2);
  }
  return null;
}

function webpSize(view: DataView): PictureSize | null {
  if (view.byteLength < 30) return null;
  const kind = view.getUint32(12);
  if (kind === 0x56503858)
    return sized(
      1 + (view.getUint32(24, true) & 0xffffff),
      1 + ((view.getUint32(26, true) >> 8) & 0xffffff)
    );
  if (kind === 0x5650384c) {
    const bits = view.getUint32(21, true);
    return sized(1 + (bits & 0x3fff), 1 + ((bits >> 14) & 0x3fff));
  }
  return sized(view.getUint16(26, true) & 0x3fff, view.getUint16(28, true) & 0x3fff);
}

/** How the camera was held, by Exif (tag 0x0112): 1 to 8; 1 where nothing says. */
export function orientationOf(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 2; at + 4 <= bytes.length && bytes[at] === 0xff;) {
    const [marker, length] = [bytes[at + 1]!, view.getUint16(at + 2)];
    if (marker === 0xda) return 1;
    const isExif =
      marker === 0xe1 && at + 10 <= bytes.length && view.getUint32(at + 4) === 0x45786966;
    if (isExif) return orientationIn(bytes.subarray(at + 10, at + 2 + length));
    at += 2 + length;
  }
  return 1;
}

function orientationIn(tiff: Uint8Array): number {
  if (tiff.length < 8) return 1;
  const view = new DataView(tiff.buffer, tiff.byteOffset, tiff.byteLength);
  const little = view.getUint16(0) === 0x4949;
  const directory = view.getUint32(4, little);
  if (directory + 2 > tiff.length) return 1;
  const count = view.getUint16(directory, little);
  for (let i = 0; i < count; i++) {
    const entry = directory + 2 + 12 * i;
    if (entry + 12 > tiff.length) return 1;
    if (view.getUint16(entry, little) !== 0x0112) continue;
    const value = view.getUint16(entry + 8, little);
    return value >= 1 && value <= 8 ? value : 1;
  }
  return 1;
}
