import { Gunzip, Inflate, Unzlib } from 'fflate';
import type { ByteSource, ScratchFile } from '../host';
import { PackageError, type PackageStep } from './types';

const STEP = 1 << 18;

/** Unpacked bytes that are believed whatever their ratio. */
const ALWAYS_FINE = 64 * 1024 * 1024;
/** Real data does not shrink more than this; what does is made to fill a disk. */
const MOST_RATIO = 400;
/** No single file of a source may grow larger than this when unpacked. */
const MOST_BYTES = 64 * 1024 ** 3;

/** A frame of deflate, or what makes another stream that gives each piece as it is unpacked. */
export type Packing = 'raw' | 'zlib' | 'gzip' | ((write: (bytes: Uint8Array) => void) => Stream);

/** A run of packed bytes to be unpacked. */
export interface PackedRun {
  source: ByteSource;
  start: number;
  length: number;
  packing: Packing;
}

export interface Unpacked {
  /** Why the unpacking ended before the end of the data; null when it did not. */
  cut: string | null;
  /** It was ended because what comes out is made to fill a disk. */
  isAbsurd?: boolean;
}

/**
 * Unpacks a deflate stream (RFC 1951, with the frames of RFC 1950 and 1952)
 * piece by piece into a scratch file. What comes out before damage is kept.
 * `onMember` is told where each further member of a gzip file begins, once
 * all of those before was written.
 */
export function* unpackInto(
  run: PackedRun,
  into: ScratchFile,
  onMember: (start: number) => void = () => undefined
): Generator<PackageStep, Unpacked> {
  // The scratch file's own errors are none of the packed data.
  let unwritten: unknown = null;
  const stream = streamFor(
    run.packing,
    (bytes) => {
      try {
        into.write(bytes);
      } catch (error) {
        unwritten = error;
        throw error;
      }
    },
    onMember
  );
  let done = 0;
  while (done < run.length) {
    const piece = run.source.read(run.start + done, Math.min(STEP, run.length - done));
    if (piece.length === 0) return { cut: 'the data end early' };
    done += piece.length;
    try {
      stream.push(piece.slice(), done >= run.length);
    } catch (error) {
      if (unwritten !== null) throw unwritten;
      return { cut: reasonOf(error) };
    }
    const absurd = tooLarge(into.size, done);
    if (absurd) return { cut: absurd, isAbsurd: true };
    yield { stage: 'unpack', done, total: run.length };
  }
  return { cut: null };
}

function tooLarge(out: number, input: number): string | null {
  if (out > MOST_BYTES) return `it grows past ${MOST_BYTES} bytes`;
  if (out > ALWAYS_FINE && out > input * MOST_RATIO)
    return `it grows to more than ${MOST_RATIO} times its size`;
  return null;
}

export interface Stream {
  push(bytes: Uint8Array, final: boolean): void;
}

function streamFor(
  packing: Packing,
  write: (bytes: Uint8Array) => void,
  onMember: (start: number) => void = () => undefined
): Stream {
  if (typeof packing === 'function') return packing(write);
  switch (packing) {
    case 'raw':
      return new Inflate(write);
    case 'zlib':
      return new Unzlib(write);
    case 'gzip': {
      const stream = new Gunzip(write);
      stream.onmember = onMember;
      return stream;
    }
  }
}

function reasonOf(error: unknown): string {
  if (error instanceof Error) return `the packed data are damaged (${error.message})`;
  throw error;
}

/** Unpacks to a source; damage throws when nothing at all came out. */
export function* unpack(
  run: PackedRun,
  name: string,
  into: ScratchFile
): Generator<PackageStep, { source: ByteSource; cut: string | null }> {
  const { cut } = yield* unpackInto(run, into);
  if (cut !== null && into.size === 0) throw new PackageError(name, run.start, cut);
  return { source: into.finish(name), cut };
}

const HEAD_STEP = 4096;

/** The first bytes of a packed run; fewer where it is short or damaged. */
export function inflateHead(run: PackedRun, wanted: number): Uint8Array {
  const out = new Uint8Array(wanted);
  let have = 0;
  const stream = streamFor(run.packing, (bytes) => {
    const part = bytes.subarray(0, wanted - have);
    out.set(part, have);
    have += part.length;
  });
  for (let done = 0; done < run.length && have < wanted;) {
    const piece = run.source.read(run.start + done, Math.min(HEAD_STEP, run.length - done));
    if (piece.length === 0) break;
    done += piece.length;
    try {
      stream.push(piece.slice(), done >= run.length);
    } catch (error) {
      reasonOf(error);
      break;
    }
  }
  return out.subarray(0, have);
}
