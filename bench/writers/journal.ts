/** One page as it stood before a transaction. */
export interface JournalImage {
  page: number;
  bytes: Uint8Array;
}

export interface JournalOptions {
  pageSize: number;
  /** Pages that the database had before. */
  initialPages: number;
  sector?: number;
  nonce?: number;
  /** Header of the first segment zeroed, as PERSIST mode leaves it. */
  zeroed?: boolean;
  /** The count is left to the file's length, as while a transaction runs. */
  openEnd?: boolean;
}

const MAGIC = [0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7];

/** Writes a rollback journal of one or more segments (file format, section 3). */
export function writeJournal(
  segments: readonly (readonly JournalImage[])[],
  { pageSize, initialPages, sector = 512, nonce = 0x5a17, zeroed, openEnd }: JournalOptions
): Uint8Array {
  const parts: Buffer[] = [];
  let length = 0;
  const push = (bytes: Buffer): void => {
    parts.push(bytes);
    length += bytes.length;
  };
  segments.forEach((images, i) => {
    // Each segment begins at a sector's bound.
    push(Buffer.alloc((sector - (length % sector)) % sector));
    const head = Buffer.alloc(sector);
    if (i > 0 || !zeroed) {
      Buffer.from(MAGIC).copy(head);
      const count = openEnd ? 0xffffffff : images.length;
      [count, nonce, initialPages, sector, pageSize].forEach((word, n) =>
        head.writeUInt32BE(word, 8 + 4 * n)
      );
    }
    push(head);
    for (const image of images) push(record(image, nonce, pageSize));
  });
  return Buffer.concat(parts);
}

function record({ page, bytes }: JournalImage, nonce: number, pageSize: number): Buffer {
  const out = Buffer.alloc(pageSize + 8);
  out.writeUInt32BE(page, 0);
  out.set(bytes, 4);
  let sum = nonce;
  for (let at = pageSize - 200; at > 0; at -= 200) sum += bytes[at]!;
  out.writeUInt32BE(sum >>> 0, pageSize + 4);
  return out;
}
