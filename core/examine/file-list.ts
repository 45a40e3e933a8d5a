import { fileAt, type CarvedFile } from '../formats/rawimage';
import { SliceSource, type ByteSource } from '../host';
import type { ListedFile } from '../formats';
import type { FileRecord } from '../records';

export function fileRecord(
  source: string,
  file: ListedFile,
  mime: string | null,
  sha256: string | null
): FileRecord {
  const { path, size, modifiedAt, createdAt } = file;
  return {
    id: `${source}/f/${path}`,
    source,
    path,
    name: path.slice(path.lastIndexOf('/') + 1),
    mime,
    bytes: size,
    sha256,
    modifiedAt,
    createdAt,
    deletedAt: null,
    state: file.deleted ? 'recovered' : 'live',
    proofs: [],
    ...(file.deleted ? { deletion: file.deleted } : {})
  };
}

/** A file that was told by its content: it is called by where it lies. */
export function carvedRecord(
  source: string,
  { path }: ListedFile,
  { offset, size, extension, mime }: CarvedFile,
  sha256: string
): FileRecord {
  const place = `${path} at ${offset}.${extension}`;
  return {
    id: `${source}/f/${place}`,
    source,
    path: place,
    name: `${offset}.${extension}`,
    mime,
    bytes: size,
    sha256,
    // The time of the image is not that of what lies in it.
    modifiedAt: null,
    createdAt: null,
    deletedAt: null,
    state: 'recovered',
    proofs: [{ source, path, page: null, offset, length: size, method: 'carved' }]
  };
}

/** The path of the medium and the offset in the name of a file that was told by its content; null for other names. */
export function carvedPlace(path: string): { medium: string; offset: number } | null {
  const parts = /^(.+) at (\d+)\.[a-z0-9]+$/s.exec(path);
  return parts && { medium: parts[1]!, offset: Number(parts[2]) };
}

/** The bytes of a file that was told by its content in a medium. */
export function carvedSource(path: string, medium: ByteSource, offset: number): ByteSource | null {
  const file = fileAt(medium, offset);
  return file && new SliceSource(path, medium, offset, file.size);
}

const MEDIA_NAME = /\.(jpe?g|heic|png|gif|webp|mov|mp4|m4v|3gp|m4a|mp3|aac|caf|amr|opus|ogg|wav)$/i;

export function isMediaName(path: string): boolean {
  return MEDIA_NAME.test(path);
}

export function isMedia(mime: string | null): boolean {
  return mime !== null && /^(image|video|audio)\//.test(mime);
}
