import { crc32, u32le, type ByteSource, type ScratchFile } from '../bytes';
import { unpackInto } from './inflate';
import { baseName, folderOf, safePath } from './paths';
import {
  emptyPackage,
  PackageError,
  plainFile,
  warning,
  type OpenedPackage,
  type Opening,
  type PackageStep
} from './types';

/** CRC-32 and size behind the data (RFC 1952, section 2.3.1). */
const TRAILER = 8;

/** Magic and the one defined method of RFC 1952, section 2.3.1. */
export function isGzip(head: Uint8Array): boolean {
  return head.length > 10 && head[0] === 0x1f && head[1] === 0x8b && head[2] === 8;
}

/** Unpacks a gzip file to the one file in it, named by its header or by dropping the last suffix. */
export function* openGzip(
  gzip: ByteSource,
  opening: Opening
): Generator<PackageStep, OpenedPackage> {
  const result = emptyPackage('gzip');
  const into = opening.scratch();
  let crc = 0;
  const summed: ScratchFile = {
    get size() {
      return into.size;
    },
    write(bytes) {
      crc = crc32(bytes, crc);
      into.write(bytes);
    },
    finish: (name) => into.finish(name)
  };
  const run = { source: gzip, start: 0, length: gzip.size, packing: 'gzip' as const };
  const { cut, members } = yield* unpackInto(run, summed);
  if (cut !== null && into.size === 0) throw new PackageError(gzip.name, 0, cut);
  if (cut !== null) {
    const text = `${gzip.name}: ${cut}; ${into.size} bytes were unpacked before that.`;
    result.notes.push(warning('damaged', text, gzip.name));
  }
  const path = folderOf(gzip.name) + innerName(gzip);
  if (cut === null && members === 1 && u32le(gzip.read(gzip.size - TRAILER, 4), 0) !== crc) {
    const text = `${path} does not have the checksum that ${gzip.name} keeps of it: it was damaged or changed after it was packed.`;
    result.notes.push(warning('checksum', text, path));
    opening.doubt?.(result.notes[result.notes.length - 1]!);
  }
  result.files.push(plainFile(path, into.finish(path), headerTime(gzip)));
  return result;
}

function innerName(gzip: ByteSource): string {
  const outer = baseName(gzip.name);
  if (/\.tgz$/i.test(outer)) return outer.replace(/\.tgz$/i, '.tar');
  if (/\.gz$/i.test(outer)) return outer.replace(/\.gz$/i, '');
  const head = gzip.read(0, 512);
  const named = (head[3]! & 8) !== 0 && (head[3]! & 4) === 0;
  const end = head.indexOf(0, 10);
  const safe =
    named && end > 10 ? safePath(new TextDecoder().decode(head.subarray(10, end))) : null;
  return safe ? baseName(safe.path) : `${outer}.unpacked`;
}

function headerTime(gzip: ByteSource): number | null {
  const seconds = u32le(gzip.read(0, 8), 4);
  return seconds === 0 ? null : seconds * 1000;
}
