import { grouped } from '../host';
import type { TreeFile } from '../formats';
import type { FileDeletion, Note } from '../records';
import type { CarvedFiles } from './types';

export function lockNote(path: string, reason: 'key-needed' | 'wrong-key'): Note {
  const what = path === '' ? 'The backup' : path;
  const text =
    reason === 'key-needed'
      ? `${what} is encrypted. It can be read with its password or key.`
      : `${what} is encrypted, and none of the passwords or keys given opens it.`;
  return { level: 'error', code: reason, text, path: path || null };
}

export function noMessages(path: string): Note {
  return {
    level: 'warning',
    code: 'no-messages',
    text: `${path} is a database, but none of its tables fits a reading profile for messages.`,
    path
  };
}

export function noStores(name: string, files: TreeFile[]): Note {
  const text = `Nothing in ${name} is a message store: ${someOf(files)}.`;
  return { level: 'error', code: 'not-recognised', text, path: null };
}

export function otherFiles(files: TreeFile[]): Note {
  const verb = files.length === 1 ? 'is not a message store' : 'are not message stores';
  return { level: 'info', code: 'not-recognised', text: `${someOf(files)} ${verb}.`, path: null };
}

export function nothing(name: string): Note {
  return { level: 'error', code: 'empty', text: `${name} holds no files.`, path: null };
}

/** The first paths, and how many others there are. */
function someOf(files: TreeFile[]): string {
  const some = files
    .slice(0, 3)
    .map(({ file }) => file.path)
    .join(', ');
  return files.length > 3 ? `${some} and ${grouped(files.length - 3)} more` : some;
}

/** What became of a deleted file's bytes, behind "its bytes". */
const CONTENTS: Record<FileDeletion['contents'], string> = {
  intact: 'belong to no other file since',
  overwritten: 'belong to other files in part: what is read of it can be theirs',
  unsure: 'lie where they most likely were, which nothing confirms'
};

/** That a store was deleted from its medium. */
export function deletedStore(path: string, { how, contents }: FileDeletion): Note {
  const text = `${path} was deleted from its medium (${how}); its bytes ${CONTENTS[contents]}. States of its messages are those within the database.`;
  return { level: contents === 'intact' ? 'info' : 'warning', code: 'deleted-store', text, path };
}

/** How many files were told by their content in a raw medium, and what is known of them. */
export function carvedNote({ file, carved }: CarvedFiles): Note {
  const { files, leftAt } = carved;
  const rest = file.isUnallocated
    ? '; they lie where no file of the medium is'
    : '; whether they were deleted cannot be told';
  const left =
    leftAt === null
      ? ''
      : ` The search for more was given up at offset ${grouped(leftAt)}: too many beginnings of files have no end.`;
  const text = `Files recognised by their content in ${file.path}: ${grouped(files.length)}${rest}.${left}`;
  return { level: 'info', code: 'carved-files', text, path: file.path };
}
