import { readExactly, u32be, type ByteSource } from '../../host';
import { isPageSize } from './header';

/** One frame of the write-ahead log (file format, section 4.1). */
export interface WalFrame {
  index: number;
  page: number;
  /** Offset of the page image in the log file. */
  offset: number;
  /** Database size in pages after this commit; 0 when the frame ends no transaction. */
  commitSize: number;
  /** Salts match the log's header and the running checksum holds. */
  valid: boolean;
}

export interface WriteAheadLog {
  source: ByteSource;
  pageSize: number;
  frames: WalFrame[];
  /** Number of leading frames that make up the committed state. */
  committed: number;
}

const WAL_HEADER = 32;
const FRAME_HEADER = 24;

/**
 * Reads the whole log's structure; null when the header is not one. Frames
 * behind the valid ones are kept, marked invalid. `usual` is the page size of
 * the database, which counts where the log's header is damaged.
 */
export function readWal(source: ByteSource, usual: number | null = null): WriteAheadLog | null {
  if (source.size < WAL_HEADER) return null;
  return logFrom(source, 0, usual, () => true);
}

/**
 * The log that begins at an offset of a medium, as far as its frames go: the
 * valid ones, and those that earlier generations left behind them, whose
 * salts are a little lower (file format, section 4.1). Null where there is
 * no log, or nothing bears its header out.
 */
export function readWalAt(medium: ByteSource, offset: number): WriteAheadLog | null {
  if (medium.size < offset + WAL_HEADER) return null;
  const salt = u32be(medium.read(offset, WAL_HEADER), 16);
  const log = logFrom(medium, offset, null, (frame, valid) => {
    const older = (salt - u32be(frame, 8)) >>> 0;
    return valid || (older > 0 && older < MOST_GENERATIONS && u32be(frame, 0) > 0);
  });
  return log?.frames[0]?.valid ? log : null;
}

/** Restarts after which a frame would still be told for one of the same log. */
const MOST_GENERATIONS = 1 << 16;

/** Whether the log goes on with a frame. */
type GoesOn = (frame: Uint8Array, valid: boolean) => boolean;

function logFrom(
  source: ByteSource,
  start: number,
  usual: number | null,
  goesOn: GoesOn
): WriteAheadLog | null {
  const header = readExactly(source, start, WAL_HEADER).slice();
  const magic = u32be(header, 0);
  if ((magic & 0xfffffffe) >>> 0 !== 0x377f0682) return null;
  const sum = new Checksum((magic & 1) === 1);
  sum.add(header, 0, 24);
  const headerHolds = sum.a === u32be(header, 24) && sum.b === u32be(header, 28);
  const pageSize = headerHolds || usual === null ? u32be(header, 8) : usual;
  if (!isPageSize(pageSize)) return null;
  const log: WriteAheadLog = { source, pageSize, frames: [], committed: 0 };
  collectFrames(log, start, header, headerHolds ? sum : null, goesOn);
  return log;
}

/** @param sum that of the header; null where it does not hold, and no frame is valid. */
function collectFrames(
  log: WriteAheadLog,
  start: number,
  header: Uint8Array,
  sum: Checksum | null,
  goesOn: GoesOn
): void {
  const { source, pageSize } = log;
  let valid = sum !== null;
  for (let at = start + WAL_HEADER, i = 0; at + FRAME_HEADER + pageSize <= source.size; i++) {
    const frame = source.read(at, FRAME_HEADER + pageSize);
    if (valid) valid = frameHolds(frame, header, sum!);
    if (!goesOn(frame, valid)) return;
    const commitSize = u32be(frame, 4);
    log.frames.push({
      index: i,
      page: u32be(frame, 0),
      offset: at + FRAME_HEADER,
      commitSize,
      valid
    });
    if (valid && commitSize > 0) log.committed = i + 1;
    at += FRAME_HEADER + pageSize;
  }
}

function frameHolds(frame: Uint8Array, header: Uint8Array, sum: Checksum): boolean {
  for (let i = 0; i < 8; i++) if (frame[8 + i] !== header[16 + i]) return false;
  sum.add(frame, 0, 8);
  sum.add(frame, FRAME_HEADER, frame.length - FRAME_HEADER);
  return sum.a === u32be(frame, 16) && sum.b === u32be(frame, 20);
}

/** The log's running checksum (section 4.2), over words of either byte order. */
class Checksum {
  a = 0;
  b = 0;
  constructor(private readonly bigEndian: boolean) {}

  add(bytes: Uint8Array, from: number, length: number): void {
    let { a, b } = this;
    for (let at = from; at < from + length; at += 8) {
      a = (a + this.word(bytes, at) + b) >>> 0;
      b = (b + this.word(bytes, at + 4) + a) >>> 0;
    }
    this.a = a;
    this.b = b;
  }

  private word(bytes: Uint8Array, at: number): number {
    if (this.bigEndian) return u32be(bytes, at);
    return (
      (bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24)) >>> 0
    );
  }
}
