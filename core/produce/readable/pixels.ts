import { encode as encodePng } from 'fast-png';
import type { PictureModules } from './modules';
import type { Pixels, Readable } from './types';

const QUALITY = 90;
/** Pixels past which a picture is not taken apart. */
export const MOST_PIXELS = 120_000_000;

/** A picture that every program opens: JPEG, or PNG where something shows through. */
export async function encoded(pixels: Pixels, modules: PictureModules): Promise<Readable> {
  const { width, height, data } = pixels;
  if (isOpaque(data)) {
    const bytes = await (await import('./jpeg')).jpegOf(pixels, QUALITY, modules);
    return { bytes, mime: 'image/jpeg', ending: 'jpg' };
  }
  const bytes = encodePng({ width, height, channels: 4, depth: 8, data });
  return { bytes, mime: 'image/png', ending: 'png' };
}

function isOpaque(data: Uint8ClampedArray): boolean {
  for (let i = 3; i < data.length; i += 4) if (data[i] !== 255) return false;
  return true;
}
