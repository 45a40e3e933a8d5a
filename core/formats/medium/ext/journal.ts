// The journal of ext3 and ext4: earlier copies of the blocks that hold inodes and folders.
import { u16be, u32be, type ByteSource } from '../../../host';
import type { ExtLayout } from './layout';
import { RunsSource } from '../runs';

const MAGIC = 0xc03b_3998;
const DESCRIPTOR = 1;
const SIXTY_FOUR_BITS = 2;
const CHECKSUMS_3 = 16;
const CHECKSUMS_2 = 8;
/** Flags of a tag. */
const ESCAPED = 1;
const SAME_ID = 2;
const LAST = 8;
const MOST_COPIES = 4_000_000;

/** An earlier copy of a block. */
export interface BlockCopy {
  sequence: number;
  /** The block of the journal that holds it. */
  at: number;
  isEscaped: boolean;
}

/** Copies of blocks that the journal still holds, whatever became of their transactions (jbd2, "On-disk format"). */
export class Journal {
  private readonly copies = new Map<number, BlockCopy[]>();

  private constructor(
    private readonly source: ByteSource,
    private readonly blockSize: number
  ) {}

  static of(layout: ExtLayout): Journal | null {
    const inode = layout.journalInode > 0 ? layout.inode(layout.journalInode) : null;
    const data = inode && layout.dataOf(inode);
    if (!inode || !Array.isArray(data)) return null;
    const source = new RunsSource('journal', layout.medium, data, inode.size);
    const journal = new Journal(source, layout.blockSize);
    return journal.read(layout.blocks) ? journal : null;
  }

  private read(blocks: number): boolean {
    const head = this.block(0);
    if (head.length < 1024 || u32be(head, 0) !== MAGIC) return false;
    const count = Math.min(u32be(head, 16), Math.floor(this.source.size / this.blockSize));
    const first = Math.max(1, u32be(head, 20));
    const features = u32be(head, 4) === 4 ? u32be(head, 40) : 0;
    let found = 0;
    for (let at = first; at < count; at++) {
      const block = this.block(at);
      if (block.length < 12 || u32be(block, 0) !== MAGIC || u32be(block, 4) !== DESCRIPTOR)
        continue;
      const sequence = u32be(block, 8);
      let place = at;
      for (const { number, flags } of tagsIn(block, features)) {
        place = place + 1 < count ? place + 1 : first;
        if (number < 1 || number >= blocks || ++found > MOST_COPIES) continue;
        const list = this.copies.get(number);
        const copy = { sequence, at: place, isEscaped: (flags & ESCAPED) !== 0 };
        if (list) list.push(copy);
        else this.copies.set(number, [copy]);
      }
    }
    for (const list of this.copies.values()) list.sort((a, b) => b.sequence - a.sequence);
    return true;
  }

  private block(n: number): Uint8Array {
    return this.source.read(n * this.blockSize, this.blockSize);
  }

  /** Copies of a block with the numbers of their transactions, the newest first. */
  *of(block: number): Generator<{ bytes: Uint8Array; sequence: number }> {
    for (const { at, isEscaped, sequence } of this.copies.get(block) ?? []) {
      let bytes = this.block(at);
      if (isEscaped) {
        // Its first bytes were those of the journal's own blocks, and were zeroed.
        bytes = new Uint8Array(bytes);
        new DataView(bytes.buffer).setUint32(0, MAGIC);
      }
      yield { bytes, sequence };
    }
  }
}

function* tagsIn(
  block: Uint8Array,
  features: number
): Generator<{ number: number; flags: number }> {
  const isThird = (features & CHECKSUMS_3) !== 0;
  const isLong = (features & SIXTY_FOUR_BITS) !== 0;
  const hasTail = isThird || (features & CHECKSUMS_2) !== 0;
  const end = block.length - (hasTail ? 4 : 0);
  const size = isThird ? 16 : isLong ? 12 : 8;
  for (let at = 12; at + size <= end;) {
    const flags = isThird ? u32be(block, at + 4) : u16be(block, at + 6);
    const high = isLong ? u32be(block, at + 8) : 0;
    yield { number: high * 2 ** 32 + u32be(block, at), flags };
    at += size + ((flags & SAME_ID) !== 0 ? 0 : 16);
    if ((flags & LAST) !== 0) return;
  }
}
