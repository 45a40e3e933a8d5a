import assert from 'node:assert/strict';
import { test } from 'node:test';
import { fileKind } from './file-kinds';

test('kinds of files are called as people call them', () => {
  const kinds: [mime: string | null, words: string][] = [
    ['application/x-sqlite3', 'SQLite database'],
    ['application/x-sqlite3-wal', 'write-ahead log'],
    ['application/x-sqlite3-journal', 'rollback journal'],
    ['application/x-plist', 'property list'],
    ['image/jpeg', 'picture (JPEG)'],
    ['image/x-icon', 'picture'],
    ['video/3gpp', 'video (3GPP)'],
    ['audio/x-m4a', 'sound (M4A)'],
    ['text/vcard', 'contact card'],
    ['text/x-unheard-of', 'text'],
    ['application/vnd.oasis.opendocument.text', 'document'],
    ['application/vnd.openxmlformats-officedocument.spreadsheetml.sheet', 'spreadsheet'],
    ['application/vnd.oasis.opendocument.presentation', 'presentation'],
    ['application/x-lzip', 'packed archive'],
    ['application/x-unheard-of', 'other'],
    [null, 'unknown']
  ];
  for (const [mime, words] of kinds) assert.equal(fileKind(mime), words, String(mime));
});
