import decodeAvif, { init as initAvif } from '@jsquash/avif/decode.js';
import decodeWebp, { init as initWebp } from '@jsquash/webp/decode.js';
import { encoded } from './pixels';
import { UnreadableError, type PictureModules, type Readable } from './types';

let webp: Promise<unknown> | null = null;
let avif: Promise<unknown> | null = null;

/** A WebP picture. */
export async function readWebp(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  holdPixels();
  webp ??= modules.webp().then((compiled) => initWebp(compiled));
  await webp;
  return copyOf(await decodeWebp(Uint8Array.from(bytes).buffer));
}

/** An AVIF picture, at eight bits a channel. */
export async function readAvif(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  holdPixels();
  avif ??= modules.avif().then((compiled) => initAvif(compiled));
  await avif;
  return copyOf(await decodeAvif(Uint8Array.from(bytes).buffer));
}

function copyOf(image: ImageData | null): Readable {
  if (!image) throw new UnreadableError('it holds no picture that can be read');
  const { width, height, data } = image;
  return encoded({ width, height, data: new Uint8ClampedArray(data) });
}

/** Outside of browsers nothing holds pixels by that name. */
function holdPixels(): void {
  globalThis.ImageData ??= PlainImage as unknown as typeof ImageData;
}

class PlainImage {
  constructor(
    readonly data: Uint8ClampedArray,
    readonly width: number,
    readonly height: number
  ) {}
}
