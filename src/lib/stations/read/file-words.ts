import type { FileKind } from '$core/records';

/** What kinds of files are called. */
export const FILE_WORDS: Record<FileKind, { one: string; many: string }> = {
  picture: { one: 'picture', many: 'pictures' },
  video: { one: 'video', many: 'videos' },
  sound: { one: 'recording', many: 'recordings' },
  document: { one: 'document', many: 'documents' },
  contact: { one: 'contact card', many: 'contact cards' },
  other: { one: 'other file', many: 'other files' }
};
