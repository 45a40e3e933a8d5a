import type { PictureModules } from './modules';
import { UnreadableError, type Readable } from './types';

/** Types of which copies are made. */
export function needsCopy(mime: string, bytes: Uint8Array): boolean {
  return readerOf(mime, bytes) !== null;
}

/**
 * A readable copy of a file; null where its type needs none. Decoders are
 * loaded when they are first needed.
 * @throws UnreadableError where the file is broken
 */
export async function readableCopy(
  bytes: Uint8Array,
  mime: string,
  modules: PictureModules
): Promise<Readable | null> {
  const reader = readerOf(mime, bytes);
  if (reader === null) return null;
  try {
    return await reader(bytes, modules);
  } catch (error) {
    // Decoders throw whatever they like, also numbers.
    // What the program itself does wrong is not the file's.
    if (error instanceof UnreadableError || error instanceof ReferenceError) throw error;
    throw new UnreadableError('it is damaged, or no such file');
  }
}

type Reader = (bytes: Uint8Array, modules: PictureModules) => Promise<Readable>;

function readerOf(mime: string, bytes: Uint8Array): Reader | null {
  switch (mime) {
    case 'image/heic':
    case 'image/heif':
      return async (data, modules) => (await import('./heif')).readHeif(data, modules);
    case 'image/webp':
      return async (data, modules) => (await import('./web-pictures')).readWebp(data, modules);
    case 'image/avif':
      return async (data, modules) => (await import('./web-pictures')).readAvif(data, modules);
    case 'audio/amr':
    case 'audio/amr-wb':
      return async (data) => (await import('./sound')).readAmr(data);
    case 'audio/ogg':
      return isOpus(bytes) ? async (data) => (await import('./sound')).readOpus(data) : null;
    default:
      return null;
  }
}

/** RFC 7845, section 5.1: the first page of the stream holds its head. */
function isOpus(bytes: Uint8Array): boolean {
  return String.fromCharCode(...bytes.subarray(0, 64)).includes('OpusHead');
}
