import type { ListedFile } from '../packages';
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
    state: 'live',
    proofs: []
  };
}

const MEDIA_NAME = /\.(jpe?g|heic|png|gif|webp|mov|mp4|m4v|3gp|m4a|mp3|aac|caf|amr|opus|ogg|wav)$/i;

export function isMediaName(path: string): boolean {
  return MEDIA_NAME.test(path);
}

export function isMedia(mime: string | null): boolean {
  return mime !== null && /^(image|video|audio)\//.test(mime);
}
