/** Memory that bytes lie in, for reading words of it. */
export interface Memory {
  view: DataView;
  /** What has to be added to a position in the bytes. */
  base: number;
}

const memory: Memory = { view: new DataView(new ArrayBuffer(0)), base: 0 };
let lastBytes: Uint8Array | null = null;

/** Most bytes of a buffer whose positions are small numbers, with which computing is quicker. */
const MOST = 0x3fff_ffff;

/**
 * Shows the memory that bytes lie in, to stand until the next call. It is kept,
 * for a page is looked at many times, and the next one mostly lies in the same
 * buffer: a view for each would take longer than what is read in it.
 */
export function memoryOf(bytes: Uint8Array): Memory {
  if (bytes !== lastBytes) show(bytes);
  return memory;
}

function show(bytes: Uint8Array): void {
  lastBytes = bytes;
  const { buffer, byteOffset, byteLength } = bytes;
  const isSmall = buffer.byteLength <= MOST;
  if (!isSmall) memory.view = new DataView(buffer, byteOffset, byteLength);
  else if (buffer !== memory.view.buffer) memory.view = new DataView(buffer);
  memory.base = isSmall ? byteOffset : 0;
}
