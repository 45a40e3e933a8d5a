const canShare = typeof SharedArrayBuffer !== 'undefined';

/** Memory of that many bytes which threads can share where the host lets them, so that nothing need be copied to hand it on. */
export function sharableRoom(bytes: number): ArrayBufferLike {
  return canShare ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes);
}

/** Whether threads share the memory of an array instead of each having its own. */
export function isShared({ buffer }: ArrayBufferView): boolean {
  return canShare && buffer instanceof SharedArrayBuffer;
}
