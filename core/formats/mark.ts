import { formatOf } from './registry';
import type { PackageFormat } from './types';

/** What the first bytes of a file show, as far as packages and stores go. */
export type FileMark = 'database' | 'package' | 'text' | 'other' | 'empty';

export interface Marked {
  mark: FileMark;
  /** Of a package. */
  format: PackageFormat | null;
}

const SQLITE = [...'SQLite format 3\0'].map((char) => char.charCodeAt(0));

export function markOf(head: Uint8Array): Marked {
  if (head.length === 0) return { mark: 'empty', format: null };
  if (SQLITE.every((byte, i) => head[i] === byte)) return { mark: 'database', format: null };
  const format = formatOf(head);
  if (format) return { mark: 'package', format };
  return { mark: isText(head) ? 'text' : 'other', format: null };
}

/** Bytes of a text in a Unicode encoding or a single-byte one: no zeros but in UTF-16, few controls. */
function isText(head: Uint8Array): boolean {
  const wide = (head[0] === 0xff && head[1] === 0xfe) || (head[0] === 0xfe && head[1] === 0xff);
  let odd = 0;
  for (const byte of head) {
    if (byte === 0 && !wide) return false;
    if (byte < 0x20 && byte !== 9 && byte !== 10 && byte !== 13 && byte !== 0x1b && byte !== 12)
      odd++;
  }
  return wide || odd * 200 < head.length;
}
