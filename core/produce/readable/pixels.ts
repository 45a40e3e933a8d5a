import { encode as encodePng } from 'fast-png';
import jpeg from 'jpeg-js';
import type { Readable } from './types';

const QUALITY = 90;
/** Pixels past which a picture is not taken apart. */
export const MOST_PIXELS = 120_000_000;

/** A decoded picture: four bytes a pixel, red, green, blue and alpha. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8ClampedArray;
}

/** A picture that every program opens: JPEG, or PNG where something shows through. */
export function encoded({ width, height, data }: Pixels): Readable {
  if (isOpaque(data)) {
    const bytes = jpeg.encode({ width, height, data: new Uint8Array(data.buffer) }, QUALITY).data;
    return { bytes: Uint8Array.from(bytes), mime: 'image/jpeg', ending: 'jpg' };
  }
  const bytes = encodePng({ width, height, channels: 4, depth: 8, data });
  return { bytes, mime: 'image/png', ending: 'png' };
}

function isOpaque(data: Uint8ClampedArray): boolean {
  for (let i = 3; i < data.length; i += 4) if (data[i] !== 255) return false;
  return true;
}
