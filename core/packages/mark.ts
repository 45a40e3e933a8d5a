import { isAb } from './ab';
import { isGzip } from './gzip';
import { isSealed } from './sealed';
import { isTarHeader } from './tar';
import { isZip } from './zip';

/** What the first bytes of a file show, as far as packages and stores go. */
export type FileMark =
  'database' | 'zip' | 'gzip' | 'tar' | 'ab' | 'sealed' | 'text' | 'other' | 'empty';

const SQLITE = [...'SQLite format 3\0'].map((char) => char.charCodeAt(0));

export function markOf(head: Uint8Array): FileMark {
  if (head.length === 0) return 'empty';
  if (SQLITE.every((byte, i) => head[i] === byte)) return 'database';
  if (isZip(head)) return 'zip';
  if (isGzip(head)) return 'gzip';
  if (isAb(head)) return 'ab';
  if (isSealed(head)) return 'sealed';
  if (isTarHeader(head.subarray(0, 512))) return 'tar';
  return isText(head) ? 'text' : 'other';
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
