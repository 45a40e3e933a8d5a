// Names in the blocks of ext's folders, and those that entries have left over.
import { u16le, u32le } from '../../../host';

/** A name in a folder, and the inode that it is of. */
export interface Named {
  name: string;
  inode: number;
  /** What the folder says that it is: 1 a file, 2 a folder, 0 where nothing is told. */
  type: number;
}

const utf8 = new TextDecoder('utf-8', { fatal: true });

/** The name at a place, where it can be one. */
function nameAt(block: Uint8Array, at: number, length: number): string | null {
  const bytes = block.subarray(at, at + length);
  if (bytes.length < length || bytes.some((byte) => byte < 0x20 || byte === 0x2f)) return null;
  try {
    return utf8.decode(bytes);
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

/** The names of a block of a folder, but for its own and its parent's. */
export function* namesIn(block: Uint8Array): Generator<Named> {
  const to = block.length;
  for (let at = 0; at + 8 <= to;) {
    const [inode, length, nameLength] = [u32le(block, at), u16le(block, at + 4), block[at + 6]!];
    if (length < 8 || at + length > to || length % 4 !== 0) return;
    const name =
      nameLength > 0 && 8 + nameLength <= length ? nameAt(block, at + 8, nameLength) : null;
    if (inode !== 0 && name !== null && name !== '.' && name !== '..')
      yield { name, inode, type: block[at + 7]! };
    at += length;
  }
}

/** Names in what entries have left over: an entry that is taken out is only skipped by the one before it. */
export function* slackOf(block: Uint8Array): Generator<Named> {
  for (let at = 0; at + 8 <= block.length;) {
    const [inode, length, nameLength] = [u32le(block, at), u16le(block, at + 4), block[at + 6]!];
    if (length < 8 || at + length > block.length) return;
    const own = inode === 0 ? 0 : 8 + Math.ceil(nameLength / 4) * 4;
    for (let within = at + own; within + 12 <= at + length; within += 4) {
      const named = leftAt(block, within, at + length);
      if (named) yield named;
    }
    at += length;
  }
}

function leftAt(block: Uint8Array, at: number, end: number): Named | null {
  const [inode, length, nameLength, type] = [
    u32le(block, at),
    u16le(block, at + 4),
    block[at + 6]!,
    block[at + 7]!
  ];
  if (inode === 0 || nameLength === 0 || type > 7 || length % 4 !== 0) return null;
  if (length < 8 + nameLength || at + 8 + nameLength > end) return null;
  const name = nameAt(block, at + 8, nameLength);
  return name === null || name === '.' || name === '..' ? null : { name, inode, type };
}
