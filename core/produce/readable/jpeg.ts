import decode, { init as initDecoder } from '@jsquash/jpeg/decode.js';
import encode, { init as initEncoder } from '@jsquash/jpeg/encode.js';
import { holdPixels, quiet, type PictureModules } from './modules';
import type { Pixels } from './types';

let decoder: Promise<unknown> | null = null;
let encoder: Promise<unknown> | null = null;

/** The pixels of a JPEG picture as they are stored, whichever way the camera was held. */
export async function jpegPixels(bytes: Uint8Array, modules: PictureModules): Promise<Pixels> {
  holdPixels();
  decoder ??= modules.jpeg().then((compiled) => quiet(initDecoder)(compiled));
  await decoder;
  const { width, height, data } = await decode(Uint8Array.from(bytes).buffer);
  return { width, height, data: new Uint8ClampedArray(data) };
}

/** A JPEG picture of opaque pixels; `quality` from 0 to 100. The same pixels give the same bytes everywhere. */
export async function jpegOf(
  { width, height, data }: Pixels,
  quality: number,
  modules: PictureModules
): Promise<Uint8Array> {
  holdPixels();
  encoder ??= modules.jpegEncoder().then((compiled) => quiet(initEncoder)(compiled));
  await encoder;
  const image = new ImageData(Uint8ClampedArray.from(data), width, height);
  return new Uint8Array(await encode(image, { quality }));
}
