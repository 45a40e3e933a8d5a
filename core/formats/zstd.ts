/** A file packed by Zstandard (RFC 8878). The checksums of its frames are not looked at. */
import { Decompress } from 'fzstd';
import { unpackInto, type Stream } from './inflate';
import { baseName, folderOf } from './paths';
import { emptyPackage, PackageError, plainFile, warning, type PackageFormat } from './types';

/** First bytes of a frame (RFC 8878, section 3.1.1), and of one that is to be passed over, but for its lowest four bits (section 3.1.2). */
const FRAME = [0x28, 0xb5, 0x2f, 0xfd];
const SKIPPED = [0x2a, 0x4d, 0x18];

function begins(head: Uint8Array): boolean {
  const isSkipped = (head[0]! & 0xf0) === 0x50 && SKIPPED.every((byte, i) => head[i + 1] === byte);
  return isSkipped || FRAME.every((byte, i) => head[i] === byte);
}

/** What the file in it is called: as the packed one, without its ending. */
function innerName(outer: string): string {
  if (/\.tzst$/i.test(outer)) return outer.replace(/\.tzst$/i, '.tar');
  return /\.zstd?$/i.test(outer) ? outer.replace(/\.zstd?$/i, '') : `${outer}.unpacked`;
}

export const ZSTD: PackageFormat = {
  kind: 'zstd',
  title: 'packed file',
  begins,
  *open(packed, _prefix, { scratch }) {
    const result = emptyPackage('zstd');
    const into = scratch();
    const packing = (write: (bytes: Uint8Array) => void): Stream => new Decompress(write);
    const run = { source: packed, start: 0, length: packed.size, packing };
    const { cut } = yield* unpackInto(run, into);
    if (cut !== null && into.size === 0) throw new PackageError(packed.name, 0, cut);
    if (cut !== null) {
      const text = `${packed.name}: ${cut}; ${into.size} bytes were unpacked before that.`;
      result.notes.push(warning('damaged', text, packed.name));
    }
    const path = folderOf(packed.name) + innerName(baseName(packed.name));
    result.files.push(plainFile(path, into.finish(path)));
    return result;
  }
};
