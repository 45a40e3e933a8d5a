// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- projects outside of core see it by this alone
/// <reference path="./libheif.d.ts" />
import heif from 'libheif-js/wasm-bundle';
import type { PictureModules } from './modules';
import { encoded, MOST_PIXELS } from './pixels';
import { UnreadableError, type Readable } from './types';

/** The first picture of a HEIC file (ISO/IEC 23008-12), turned as it is to be seen. */
export async function readHeif(bytes: Uint8Array, modules: PictureModules): Promise<Readable> {
  const [image] = new heif.HeifDecoder().decode(bytes);
  if (!image) throw new UnreadableError('it holds no picture that can be read');
  try {
    const [width, height] = [image.get_width(), image.get_height()];
    if (width * height > MOST_PIXELS) throw new UnreadableError('it is too large');
    const target = { width, height, data: new Uint8ClampedArray(width * height * 4) };
    const isDrawn = await new Promise<boolean>((resolve) => {
      image.display(target, (shown) => resolve(shown !== null));
    });
    if (!isDrawn) throw new UnreadableError('its picture is damaged');
    return await encoded(target, modules);
  } finally {
    image.free();
  }
}
