import decodeAvif, { init as initAvif } from '@jsquash/avif/decode.js';
import decodeJpeg, { init as initJpeg } from '@jsquash/jpeg/decode.js';
import decodeWebp, { init as initWebp } from '@jsquash/webp/decode.js';
import { encoded, type Pixels } from './pixels';
import { UnreadableError, type PictureModules, type Readable } from './types';

type Init = (module: WebAssembly.Module, options: object) => Promise<void>;

/** What decoders say of damaged files is told by what they give; the types leave the second argument out. */
function quiet(init: unknown): (module: WebAssembly.Module) => Promise<void> {
  const options = { print: () => undefined, printErr: () => undefined };
  return (module) => (init as Init)(module, options);
}

let webp: Promise<unknown> | null = null;
let avif: Promise<unknown> | null = null;
let jpeg: Promise<unknown> | null = null;

/** A WebP picture. */
export async function readWebp(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  holdPixels();
  webp ??= modules.webp().then((compiled) => quiet(initWebp)(compiled));
  await webp;
  return copyOf(await decodeWebp(Uint8Array.from(bytes).buffer));
}

/** An AVIF picture, at eight bits a channel. */
export async function readAvif(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  holdPixels();
  avif ??= modules.avif().then((compiled) => quiet(initAvif)(compiled));
  await avif;
  return copyOf(await decodeAvif(Uint8Array.from(bytes).buffer));
}

/** The pixels of a JPEG picture as they are stored, whichever way the camera was held. */
export async function jpegPixels(bytes: Uint8Array, modules: PictureModules): Promise<Pixels> {
  holdPixels();
  jpeg ??= modules.jpeg().then((compiled) => quiet(initJpeg)(compiled));
  await jpeg;
  const { width, height, data } = await decodeJpeg(Uint8Array.from(bytes).buffer);
  return { width, height, data: new Uint8ClampedArray(data) };
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
