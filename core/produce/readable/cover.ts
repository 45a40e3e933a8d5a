import { decode as decodePng, encode as encodePng } from 'fast-png';
import type { Area } from '../redact';
import type { PictureModules } from './modules';
import { orientationOf, pictureSize } from './picture-size';
import { MOST_PIXELS } from './pixels';

const QUALITY = 92;

interface Pixels {
  width: number;
  height: number;
  channels: number;
  data: Uint8Array | Uint8ClampedArray | Uint16Array;
}

/**
 * A picture with areas painted over and everything that stood beside its
 * pixels (thumbnail, place, camera) left out; null where the format cannot be
 * taken apart, so that nothing of it may be shown.
 */
export async function coverAreas(
  bytes: Uint8Array,
  mime: string,
  areas: readonly Area[],
  modules: PictureModules
): Promise<Uint8Array | null> {
  try {
    if (mime === 'image/png') return coverPng(bytes, areas);
    return mime === 'image/jpeg' ? await coverJpeg(bytes, areas, modules) : null;
  } catch (error) {
    if (error instanceof ReferenceError) throw error;
    // Decoders throw whatever they like: a picture that none takes apart cannot be shown in part.
    return null;
  }
}

function coverPng(bytes: Uint8Array, areas: readonly Area[]): Uint8Array {
  const image = decodePng(bytes);
  if (image.palette) return encodePng(painted(withoutPalette(image), areas, 8));
  // Nothing but the pixels: texts and profiles that stand beside them may tell what is covered.
  const { width, height, channels, depth, data } = painted(pixelsOf(image), areas, image.depth);
  return encodePng({ width, height, channels, depth, data });
}

function pixelsOf(image: ReturnType<typeof decodePng>): Pixels & { depth: typeof image.depth } {
  const { width, height, channels, depth, data } = image;
  return { width, height, channels, depth, data };
}

function withoutPalette(image: ReturnType<typeof decodePng>): Pixels {
  const { width, height, palette } = image;
  const data = new Uint8Array(width * height * 4);
  const perByte = 8 / image.depth;
  const rowBytes = Math.ceil((width * image.depth) / 8);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const byte = Number(image.data[y * rowBytes + Math.floor(x / perByte)]);
      const shift = 8 - image.depth * ((x % perByte) + 1);
      const color = palette![(byte >> shift) & ((1 << image.depth) - 1)] ?? [0, 0, 0];
      data.set([color[0]!, color[1]!, color[2]!, color[3] ?? 255], (y * width + x) * 4);
    }
  return { width, height, channels: 4, data };
}

async function coverJpeg(
  bytes: Uint8Array,
  areas: readonly Area[],
  modules: PictureModules
): Promise<Uint8Array | null> {
  const size = pictureSize(bytes, 'image/jpeg');
  if (size === null || size.width * size.height > MOST_PIXELS) return null;
  const { jpegOf, jpegPixels } = await import('./jpeg');
  const image = await jpegPixels(bytes, modules);
  const upright = turnedBy({ ...image, channels: 4 }, orientationOf(bytes));
  const { width, height, data } = painted(upright, areas, 8);
  return jpegOf({ width, height, data: Uint8ClampedArray.from(data) }, QUALITY, modules);
}

/** Paints the areas black; a pixel that an area touches belongs to it. */
function painted<P extends Pixels>(image: P, areas: readonly Area[], depth: number): P {
  const { width, height, channels, data } = image;
  const full = 2 ** depth - 1;
  const hasAlpha = channels === 2 || channels === 4;
  for (const area of areas) {
    const [left, top] = [Math.floor(area.x * width), Math.floor(area.y * height)];
    const right = Math.min(width, Math.ceil((area.x + area.width) * width));
    const bottom = Math.min(height, Math.ceil((area.y + area.height) * height));
    for (let y = top; y < bottom; y++)
      for (let x = left; x < right; x++) {
        const at = (y * width + x) * channels;
        for (let c = 0; c < channels; c++) data[at + c] = hasAlpha && c === channels - 1 ? full : 0;
      }
  }
  return image;
}

/** The picture as it is seen, where the camera was held otherwise. */
export function turnedBy(image: Pixels, orientation: number): Pixels {
  if (orientation === 1) return image;
  const { width, height, data } = image;
  const isTurned = orientation >= 5;
  const [w, h] = isTurned ? [height, width] : [width, height];
  const out = new Uint8Array(w * h * 4);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [sx, sy] = placeBefore(x, y, width, height, orientation);
      const from = (sy * width + sx) * 4;
      for (let c = 0; c < 4; c++) out[(y * w + x) * 4 + c] = Number(data[from + c]);
    }
  return { width: w, height: h, channels: 4, data: out };
}

function placeBefore(
  x: number,
  y: number,
  width: number,
  height: number,
  orientation: number
): [number, number] {
  switch (orientation) {
    case 2:
      return [width - 1 - x, y];
    case 3:
      return [width - 1 - x, height - 1 - y];
    case 4:
      return [x, height - 1 - y];
    case 5:
      return [y, x];
    case 6:
      return [y, height - 1 - x];
    case 7:
      return [width - 1 - y, height - 1 - x];
    case 8:
      return [width - 1 - y, x];
    default:
      return [x, y];
  }
}
