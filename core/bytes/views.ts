let lastBytes: Uint8Array = new Uint8Array(0);
let lastView: DataView = new DataView(lastBytes.buffer);

/** Shows the same bytes for reading words of them. The last view is kept, for a page is looked at many times. */
export function viewOf(bytes: Uint8Array): DataView {
  if (bytes !== lastBytes) {
    lastView = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    lastBytes = bytes;
  }
  return lastView;
}
