import { crc32, u32le, type ByteSource, type ScratchFile } from '../host';
import { unpackInto } from './inflate';
import { baseName, folderOf, safePath } from './paths';
import {
  emptyPackage,
  PackageError,
  plainFile,
  warning,
  type OpenedPackage,
  type Opening,
  type PackageStep,
  type PackageFormat
} from './types';

/** CRC-32 and size behind the data (RFC 1952, section 2.3.1). */
const TRAILER = 8;

/** Magic and the one defined method of RFC 1952, section 2.3.1. */
function isGzip(head: Uint8Array): boolean {
  return head.length > 10 && head[0] === 0x1f && head[1] === 0x8b && head[2] === 8;
}

/** Unpacks a gzip file to the one file in it, named by its header or by dropping the last suffix. */
export function* openGzip(
  gzip: ByteSource,
  opening: Opening
): Generator<PackageStep, OpenedPackage> {
  const result = emptyPackage('gzip');
  const into = opening.scratch();
  const members = new Members(gzip);
  const summed: ScratchFile = {
    get size() {
      return into.size;
    },
    write(bytes) {
      members.add(bytes);
      into.write(bytes);
    },
    finish: (name) => into.finish(name)
  };
  const run = { source: gzip, start: 0, length: gzip.size, packing: 'gzip' as const };
  const { cut, isAbsurd } = yield* unpackInto(run, summed, (start) => members.begin(start));
  const isPadded = cut !== null && !isAbsurd && members.isFollowed();
  if (cut !== null && !isPadded && into.size === 0) throw new PackageError(gzip.name, 0, cut);
  if (cut !== null && !isPadded) {
    const text = `${gzip.name}: ${cut}; ${into.size} bytes were unpacked before that.`;
    result.notes.push(warning('damaged', text, gzip.name));
  }
  const path = folderOf(gzip.name) + innerName(gzip);
  if (cut === null) members.end();
  if (members.wrong > 0) {
    const text = `${path} does not have the checksum that ${gzip.name} keeps of it: it was damaged or changed after it was packed.`;
    result.notes.push(warning('checksum', text, path));
    opening.doubt?.(result.notes[result.notes.length - 1]!);
  }
  result.files.push(plainFile(path, into.finish(path), headerTime(gzip)));
  return result;
}

/** Bytes behind the data in which a trailer is looked for: tapes and cards fill their last block. */
const PADDING = 1 << 20;

/** The members of a gzip file, one behind the other, each with a checksum and a size of its own. */
class Members {
  /** Members whose data are not what their trailers say. */
  wrong = 0;
  private crc = 0;
  private size = 0;

  constructor(private readonly gzip: ByteSource) {}

  add(bytes: Uint8Array): void {
    this.crc = crc32(bytes, this.crc);
    this.size += bytes.length;
  }

  /** A further member begins: the trailer of the one before stands in front of it. */
  begin(start: number): void {
    if (!this.isTrailer(this.gzip.read(start - TRAILER, TRAILER), 0)) this.wrong++;
    [this.crc, this.size] = [0, 0];
  }

  end(): void {
    const { gzip } = this;
    const isSound = this.isTrailer(gzip.read(gzip.size - TRAILER, TRAILER), 0) || this.isFollowed();
    if (!isSound) this.wrong++;
  }

  /** Whether the last member is whole, and something that is none stands behind it. */
  isFollowed(): boolean {
    const { gzip } = this;
    const bytes = gzip.read(Math.max(0, gzip.size - PADDING), PADDING);
    for (let at = bytes.length - TRAILER; at >= 0; at--) if (this.isTrailer(bytes, at)) return true;
    return false;
  }

  private isTrailer(bytes: Uint8Array, at: number): boolean {
    if (at + TRAILER > bytes.length) return false;
    return u32le(bytes, at) === this.crc >>> 0 && u32le(bytes, at + 4) === this.size % 2 ** 32;
  }
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

export const GZIP: PackageFormat = {
  kind: 'gzip',
  title: 'packed file',
  begins: isGzip,
  open: (source, _prefix, opening) => openGzip(source, opening)
};
