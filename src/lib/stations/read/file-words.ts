import type { FileDeletion, FileKind } from '$core/records';

/** What kinds of files are called. */
export const FILE_WORDS: Record<FileKind, { one: string; many: string }> = {
  picture: { one: 'picture', many: 'pictures' },
  video: { one: 'video', many: 'videos' },
  sound: { one: 'recording', many: 'recordings' },
  document: { one: 'document', many: 'documents' },
  contact: { one: 'contact card', many: 'contact cards' },
  other: { one: 'other file', many: 'other files' }
};

/** What became of the bytes of a deleted file. */
export const DELETED_WORDS: Record<FileDeletion['contents'], string> = {
  intact: 'deleted',
  overwritten: 'deleted, partly overwritten',
  unsure: 'deleted, contents unsure'
};
