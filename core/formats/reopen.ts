import { isExhausted, SliceSource, type ByteSource, type Scratch, type SliceHandle } from '../host';
import { CbcSource, type CbcHandle } from './keys/aes';
import { RunsSource, UnclaimedSource, type RunsHandle, type UnclaimedHandle } from './medium/runs';
import type { PackageStep } from './types';

/**
 * Opens in another thread what lies in a package: a part of a file, or a
 * locked one, is opened by the handle of the file and made of it again.
 * @param host opens a file by the host's own handle
 */
export function reopen(handle: unknown, host: (handle: unknown) => ByteSource): ByteSource {
  if (!isDerived(handle)) return host(handle);
  const inner = reopen(handle.of, host);
  switch (handle.derived) {
    case 'slice':
      return new SliceSource(handle.name, inner, handle.start, handle.size);
    case 'cbc':
      return new CbcSource(handle.name, inner, handle.key, handle.size, handle.iv);
    case 'runs':
      return new RunsSource(handle.name, inner, handle.runs, handle.size);
    case 'unclaimed':
      return new UnclaimedSource(handle.name, inner, handle.claimed);
  }
}

function isDerived(
  handle: unknown
): handle is SliceHandle | CbcHandle | RunsHandle | UnclaimedHandle {
  return typeof handle === 'object' && handle !== null && 'derived' in handle;
}

/** Smaller files are unlocked where they are read. */
const LARGE = 1 << 20;
const STEP = 1 << 20;

/**
 * A large locked source unlocked once: a database is gone over several times,
 * by several threads, and each would unlock it anew. Others are given back as
 * they are, and so is one for which there is no room.
 */
export function* unlockedOnce(
  source: ByteSource,
  scratch: Scratch
): Generator<PackageStep, ByteSource> {
  if (!(source instanceof CbcSource) || source.size < LARGE) return source;
  try {
    const into = scratch();
    for (let at = 0; at < source.size; at += STEP) {
      into.write(source.read(at, STEP));
      yield { stage: 'unlock', done: at, total: source.size };
    }
    return into.finish(source.name);
  } catch (error) {
    if (isExhausted(error)) return source;
    throw error;
  }
}
