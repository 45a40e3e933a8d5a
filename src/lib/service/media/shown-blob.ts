import { readableCopy, typeOf, UnreadableError } from '$core/produce';
import { pictureModules } from '../host/picture-modules';

/** What browsers show and play by themselves. */
const SHOWN = /^(image\/(jpeg|png|gif|webp|avif|bmp)|audio\/(ogg|mpeg|mp4|wav)|video\/)/;

/** A file as a page can show it: as it is, or as a readable copy. */
export async function shownBlob(bytes: Uint8Array<ArrayBuffer>): Promise<Blob> {
  const mime = typeOf(bytes) ?? '';
  if (SHOWN.test(mime)) return new Blob([bytes], { type: mime });
  try {
    const copy = await readableCopy(bytes, mime, pictureModules);
    if (copy) return new Blob([Uint8Array.from(copy.bytes)], { type: copy.mime });
  } catch (error) {
    // What is broken is given as it is: whoever shows it says so.
    if (!(error instanceof UnreadableError)) throw error;
  }
  return new Blob([bytes], { type: mime });
}
