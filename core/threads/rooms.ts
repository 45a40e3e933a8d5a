/** Enough for what is written of one stretch of rows, as a rule. */
const ROOM = 2 << 20;

/**
 * Memory for JSON on its way out, which is used again: as much as a store
 * holds passes through, and the collector would be busy with it all the time.
 * It is shared, so that other threads write where this one reads.
 */
export class Rooms {
  private readonly free: SharedArrayBuffer[] = [];

  take(): SharedArrayBuffer {
    return this.free.pop() ?? new SharedArrayBuffer(ROOM);
  }

  give(room: SharedArrayBuffer): void {
    this.free.push(room);
  }
}
