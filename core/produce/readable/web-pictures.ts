import decodeAvif, { init as initAvif } from '@jsquash/avif/decode.js';
import decodeWebp, { init as initWebp } from '@jsquash/webp/decode.js';
import { holdPixels, quiet, type PictureModules } from './modules';
import { encoded } from './pixels';
import { UnreadableError, type Readable } from './types';

let webp: Promise<unknown> | null = null;
let avif: Promise<unknown> | null = null;

/** A WebP picture. */
export async function readWebp(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  holdPixels();
  webp ??= modules.webp().then((compiled) => quiet(initWebp)(compiled));
  await webp;
  return copyOf(await decodeWebp(Uint8Array.from(bytes).buffer), modules);
}

/** An AVIF picture, at eight bits a channel. */
export async function readAvif(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  holdPixels();
  avif ??= modules.avif().then((compiled) => quiet(initAvif)(compiled));
  await avif;
  return copyOf(await decodeAvif(Uint8Array.from(bytes).buffer), modules);
}

function copyOf(image: ImageData | null, modules: PictureModules): Promise<Readable> {
  if (!image) throw new UnreadableError('it holds no picture that can be read');
  const { width, height, data } = image;
  return encoded({ width, height, data: new Uint8ClampedArray(data) }, modules);
}
