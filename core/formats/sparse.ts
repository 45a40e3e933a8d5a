import type { ByteSource } from '../host';

/** A stretch of a file that an archive keeps; between them the file holds zeros. */
export interface Stretch {
  /** In the file. */
  offset: number;
  length: number;
}

/** A file of which an archive keeps only the stretches that are not empty, one behind the other. */
export class SparseSource implements ByteSource {
  private readonly placed: (Stretch & { at: number })[] = [];

  constructor(
    readonly name: string,
    private readonly archive: ByteSource,
    start: number,
    readonly size: number,
    stretches: readonly Stretch[]
  ) {
    let at = start;
    for (const { offset, length } of stretches) {
      this.placed.push({ offset, length, at });
      at += length;
    }
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset < 0 || offset >= end) return new Uint8Array(0);
    const out = new Uint8Array(end - offset);
    for (const stretch of this.placed) {
      const from = Math.max(offset, stretch.offset);
      const to = Math.min(end, stretch.offset + stretch.length);
      if (from >= to) continue;
      out.set(this.archive.read(stretch.at + from - stretch.offset, to - from), from - offset);
    }
    return out;
  }
}

/** Numbers of a map in words: offset, length, offset, length … */
export function stretchesOf(numbers: readonly number[]): Stretch[] {
  const out: Stretch[] = [];
  for (let i = 0; i + 1 < numbers.length; i += 2) {
    const [offset, length] = [numbers[i]!, numbers[i + 1]!];
    if (Number.isSafeInteger(offset) && Number.isSafeInteger(length) && offset >= 0 && length >= 0)
      out.push({ offset, length });
  }
  return out;
}
