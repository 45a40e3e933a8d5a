const canShare = typeof SharedArrayBuffer !== 'undefined';

/** Gives memory of so many bytes. */
export type MakeRoom = (bytes: number) => ArrayBufferLike;

/** Memory that a thread has for itself. */
export const ownRoom: MakeRoom = (bytes) => new ArrayBuffer(bytes);

/** Memory of that many bytes which threads can share where the host lets them, so that nothing need be copied to hand it on. */
export function sharableRoom(bytes: number): ArrayBufferLike {
  return canShare ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes);
}

/** Below this copying takes less than sharing, for shared memory is given back late. */
const WORTH_SHARING = 1 << 16;

/** Memory that threads share where there is much of it, else such as each has for itself. */
export function roomFor(bytes: number): ArrayBufferLike {
  return bytes < WORTH_SHARING ? new ArrayBuffer(bytes) : sharableRoom(bytes);
}

/** Whether threads share the memory of an array instead of each having its own. */
export function isShared({ buffer }: ArrayBufferView): boolean {
  return canShare && buffer instanceof SharedArrayBuffer;
}
