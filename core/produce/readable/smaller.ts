import { decode as decodePng } from 'fast-png';
import { turnedBy } from './cover';
import type { PictureModules } from './modules';
import { orientationOf } from './picture-size';
import { encoded } from './pixels';
import type { Pixels, Readable } from './types';

/** Small pictures that are kept for the next time: a preview sets the same ones over and over. */
const MOST_KEPT = 400;
const kept = new Map<string, Readable | null>();

/**
 * A picture scaled down so that its longer side has so many pixels, the right
 * way up; null where it cannot be taken apart. `key` tells its content.
 */
export async function smallerPicture(
  bytes: Uint8Array,
  mime: string,
  side: number,
  key: string,
  modules: PictureModules
): Promise<Readable | null> {
  const name = `${side} ${key}`;
  const known = kept.get(name);
  if (known !== undefined) return known;
  const made = await scaledDown(bytes, mime, side, modules);
  const [oldest] = kept.keys();
  if (kept.size >= MOST_KEPT && oldest !== undefined) kept.delete(oldest);
  kept.set(name, made);
  return made;
}

async function scaledDown(
  bytes: Uint8Array,
  mime: string,
  side: number,
  modules: PictureModules
): Promise<Readable | null> {
  let pixels: Pixels | null;
  try {
    pixels =
      mime === 'image/jpeg'
        ? await (await import('./jpeg')).jpegPixels(bytes, modules)
        : pngPixels(bytes, mime);
  } catch (error) {
    if (error instanceof ReferenceError) throw error;
    // Decoders throw whatever they like; what they cannot take apart is set as it is, or named as broken.
    return null;
  }
  if (!pixels) return null;
  const small = scaled(pixels, side / Math.max(pixels.width, pixels.height));
  const turned = turnedBy({ ...small, channels: 4 }, orientationOf(bytes));
  return encoded({ ...turned, data: Uint8ClampedArray.from(turned.data) }, modules);
}

/** Only plain pictures of eight bits: others are rare, and small enough. */
function pngPixels(bytes: Uint8Array, mime: string): Pixels | null {
  if (mime !== 'image/png') return null;
  const { width, height, data, channels, depth, palette } = decodePng(bytes);
  if (depth !== 8 || palette || channels < 3) return null;
  if (channels === 4) return { width, height, data: Uint8ClampedArray.from(data) };
  const out = new Uint8ClampedArray(width * height * 4).fill(255);
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) out[4 * i + c] = Number(data[3 * i + c]);
  return { width, height, data: out };
}

/** Each pixel is the mean of those that it stands for. */
export function scaled({ width, height, data }: Pixels, by: number): Pixels {
  if (by >= 1) return { width, height, data };
  const w = Math.max(1, Math.round(width * by));
  const h = Math.max(1, Math.round(height * by));
  const out = new Uint8ClampedArray(w * h * 4);
  for (let y = 0; y < h; y++) {
    const [top, bottom] = stretch(y, h, height);
    for (let x = 0; x < w; x++) {
      const [left, right] = stretch(x, w, width);
      out.set(mean(data, width, left, right, top, bottom), (y * w + x) * 4);
    }
  }
  return { width: w, height: h, data: out };
}

function stretch(i: number, parts: number, size: number): [from: number, to: number] {
  const from = Math.floor((i * size) / parts);
  return [from, Math.max(from + 1, Math.floor(((i + 1) * size) / parts))];
}

function mean(
  data: Uint8ClampedArray,
  width: number,
  left: number,
  right: number,
  top: number,
  bottom: number
): [number, number, number, number] {
  let [red, green, blue, alpha] = [0, 0, 0, 0];
  for (let y = top; y < bottom; y++)
    for (let at = (y * width + left) * 4; at < (y * width + right) * 4; at += 4) {
      red += data[at]!;
      green += data[at + 1]!;
      blue += data[at + 2]!;
      alpha += data[at + 3]!;
    }
  const count = (right - left) * (bottom - top);
  return [red / count, green / count, blue / count, alpha / count];
}
