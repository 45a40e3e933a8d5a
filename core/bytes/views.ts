let lastBytes: Uint8Array = new Uint8Array(0);
let lastMemory = lastBytes.buffer;
let lastView: DataView = new DataView(lastMemory);

/**
 * Shows the memory that bytes lie in, for reading words of it. Positions count
 * from its beginning: `bytes.byteOffset` has to be added to those in `bytes`.
 * The last view is kept, for a page is looked at many times, and the next one
 * mostly lies in the same memory.
 */
export function memoryOf(bytes: Uint8Array): DataView {
  if (bytes !== lastBytes) {
    lastBytes = bytes;
    const { buffer } = bytes;
    if (buffer !== lastMemory) {
      lastView = new DataView(buffer);
      lastMemory = buffer;
    }
  }
  return lastView;
}
