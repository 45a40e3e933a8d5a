/** One commit of a write-ahead log: the database's bytes after it, or only some of them where it was never finished. */
export interface LogCommit {
  bytes: Uint8Array;
  /** The transaction was written and not committed. */
  open?: boolean;
}

export interface LogOptions {
  pageSize: number;
  /** Checkpoint number and salts; a log that begins anew counts on and takes others. */
  sequence?: number;
  salts?: [number, number];
}

const HEADER = 32;
const FRAME_HEADER = 24;
/** The magic number that says that checksums are over big-endian words (file format, section 4.1). */
const MAGIC = 0x377f0683;
const VERSION = 3007000;

/**
 * Writes the write-ahead log that turns `base` into the last of some states,
 * a commit for each: frames for the pages that changed, in their order.
 */
export function writeLog(
  base: Uint8Array,
  commits: readonly LogCommit[],
  { pageSize, sequence = 0, salts = [0x1badcafe, 0x5eed0001] }: LogOptions
): Uint8Array {
  const header = Buffer.alloc(HEADER);
  [MAGIC, VERSION, pageSize, sequence, ...salts].forEach((word, i) =>
    header.writeUInt32BE(word, 4 * i)
  );
  const sum = new RunningSum();
  sum.add(header.subarray(0, 24));
  sum.write(header, 24);
  const parts: Buffer[] = [header];
  let before = base;
  for (const { bytes, open } of commits) {
    const pages = changedPages(before, bytes, pageSize);
    pages.forEach((number, i) => {
      const isLast = i === pages.length - 1 && !open;
      const page = bytes.subarray((number - 1) * pageSize, number * pageSize);
      parts.push(frame(number, isLast ? bytes.length / pageSize : 0, page, salts, sum));
    });
    before = bytes;
  }
  return Buffer.concat(parts);
}

/** A log whose first frames were written over by a later one, as after a restart: what it does not reach stays behind it. */
export function beginAnew(old: Uint8Array, later: Uint8Array): Uint8Array {
  if (later.length >= old.length) return later;
  return Buffer.concat([later, old.subarray(later.length)]);
}

function changedPages(before: Uint8Array, after: Uint8Array, pageSize: number): number[] {
  const changed: number[] = [];
  for (let number = 1; number * pageSize <= after.length; number++) {
    const at = (number - 1) * pageSize;
    const same = Buffer.compare(
      before.subarray(at, at + pageSize),
      after.subarray(at, at + pageSize)
    );
    if (same !== 0) changed.push(number);
  }
  // A commit is a frame at least.
  return changed.length === 0 ? [1] : changed;
}

function frame(
  number: number,
  size: number,
  page: Uint8Array,
  salts: readonly [number, number],
  sum: RunningSum
): Buffer {
  const head = Buffer.alloc(FRAME_HEADER);
  [number, size, ...salts].forEach((word, i) => head.writeUInt32BE(word, 4 * i));
  sum.add(head.subarray(0, 8));
  sum.add(page);
  sum.write(head, 16);
  return Buffer.concat([head, page]);
}

/** The checksum that each frame takes on from the one before (section 4.2). */
class RunningSum {
  private first = 0;
  private second = 0;

  add(bytes: Uint8Array): void {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    for (let at = 0; at < bytes.length; at += 8) {
      this.first = (this.first + view.getUint32(at) + this.second) >>> 0;
      this.second = (this.second + view.getUint32(at + 4) + this.first) >>> 0;
    }
  }

  write(into: Buffer, at: number): void {
    into.writeUInt32BE(this.first, at);
    into.writeUInt32BE(this.second, at + 4);
  }
}
