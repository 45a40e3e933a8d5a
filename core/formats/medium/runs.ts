// Sources made of pieces of a medium: a file of several runs, and the medium without what its files claim.
import type { ByteSource } from '../../host';

/** A run of bytes of a medium; where `start` is -1 it holds zeros that were never written. */
export interface Extent {
  start: number;
  length: number;
}

/** Where nothing was ever written. */
export const HOLE = -1;

/** By what another thread opens a source of several runs. */
export interface RunsHandle {
  readonly derived: 'runs';
  /** The handle of the medium. */
  readonly of: unknown;
  readonly name: string;
  readonly runs: readonly Extent[];
  readonly size: number;
}

/** A file that lies in several runs of a medium. What lies past the medium's end is not there. */
export class RunsSource implements ByteSource {
  /** Where each run begins in the file; one more for its end. */
  private readonly starts: Float64Array;
  readonly size: number;

  constructor(
    readonly name: string,
    private readonly medium: ByteSource,
    private readonly runs: readonly Extent[],
    size: number
  ) {
    this.starts = new Float64Array(runs.length + 1);
    for (const [i, { length }] of runs.entries()) this.starts[i + 1] = this.starts[i]! + length;
    this.size = Math.max(0, Math.min(size, this.starts[runs.length]!));
  }

  get handle(): RunsHandle | undefined {
    const { name, runs, size, medium } = this;
    if (medium.handle === undefined) return undefined;
    return { derived: 'runs', of: medium.handle, name, runs, size };
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset < 0 || offset >= end) return new Uint8Array(0);
    let at = this.runAt(offset);
    const first = this.runs[at]!;
    const within = offset - this.starts[at]!;
    if (first.start !== HOLE && within + (end - offset) <= first.length)
      return this.medium.read(first.start + within, end - offset);
    const out = new Uint8Array(end - offset);
    for (let pos = offset; pos < end; at++) {
      const run = this.runs[at]!;
      const skipped = pos - this.starts[at]!;
      const part = Math.min(run.length - skipped, end - pos);
      if (run.start !== HOLE) {
        const bytes = this.medium.read(run.start + skipped, part);
        out.set(bytes, pos - offset);
        if (bytes.length < part) return out.subarray(0, pos - offset + bytes.length);
      }
      pos += part;
    }
    return out;
  }

  /** The run that holds an offset. */
  private runAt(offset: number): number {
    let [low, high] = [0, this.runs.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle]! <= offset) low = middle;
      else high = middle - 1;
    }
    return low;
  }
}

/** Runs that follow each other become one. */
export function joinedRuns(runs: Iterable<Extent>): Extent[] {
  const out: Extent[] = [];
  for (const { start, length } of runs) {
    if (length <= 0) continue;
    const last = out[out.length - 1];
    const goesOn =
      last && (start === HOLE ? last.start === HOLE : last.start + last.length === start);
    if (goesOn && !(start !== HOLE && last.start === HOLE)) last.length += length;
    else out.push({ start, length });
  }
  return out;
}

/** Bytes of a medium that are claimed, as pairs of begin and end, in order and apart. */
export function claimedOf(extents: Iterable<Extent>): Float64Array {
  const sorted = [...extents].filter(({ start, length }) => start >= 0 && length > 0);
  sorted.sort((a, b) => a.start - b.start);
  const ends: number[] = [];
  for (const { start, length } of sorted) {
    const last = ends.length - 1;
    if (last > 0 && start <= ends[last]!) ends[last] = Math.max(ends[last]!, start + length);
    else ends.push(start, start + length);
  }
  return Float64Array.from(ends);
}

/** By what another thread opens what is left of a medium. */
export interface UnclaimedHandle {
  readonly derived: 'unclaimed';
  readonly of: unknown;
  readonly name: string;
  readonly claimed: Float64Array;
}

/** A medium in which everything that files claim reads as zeros, so that offsets stay those of the medium. */
export class UnclaimedSource implements ByteSource {
  readonly size: number;

  constructor(
    readonly name: string,
    private readonly medium: ByteSource,
    /** As {@link claimedOf} gives it. */
    private readonly claimed: Float64Array
  ) {
    this.size = medium.size;
  }

  get handle(): UnclaimedHandle | undefined {
    const { name, claimed, medium } = this;
    if (medium.handle === undefined) return undefined;
    return { derived: 'unclaimed', of: medium.handle, name, claimed };
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset < 0 || offset >= end) return new Uint8Array(0);
    let at = this.firstPast(offset);
    // Mostly all of it is claimed, or nothing.
    if (at < this.claimed.length && this.claimed[at]! <= offset && this.claimed[at + 1]! >= end)
      return new Uint8Array(end - offset);
    const bytes = this.medium.read(offset, end - offset);
    if (at >= this.claimed.length || this.claimed[at]! >= end) return bytes;
    const out = new Uint8Array(bytes);
    for (; at < this.claimed.length && this.claimed[at]! < end; at += 2)
      out.fill(
        0,
        Math.max(0, this.claimed[at]! - offset),
        Math.min(end, this.claimed[at + 1]!) - offset
      );
    return out;
  }

  /** The first pair that ends behind an offset. */
  private firstPast(offset: number): number {
    let [low, high] = [0, this.claimed.length / 2];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.claimed[2 * middle + 1]! > offset) high = middle;
      else low = middle + 1;
    }
    return 2 * low;
  }
}
