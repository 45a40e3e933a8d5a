import { u16le, u32le, type ByteSource } from '../../host';

/** A file system within a raw medium, as far as it is read: which of its bytes belong to files. */
export interface Volume {
  /** Of its first byte, and how many bytes it takes. */
  offset: number;
  size: number;
  /** Whether the block at an offset of the medium belongs to a file; null where that is not known. */
  isInUse(offset: number): boolean | null;
}

const SECTOR = 512;
const PARTITIONS_AT = 446;
const ENTRY = 16;

/**
 * The volumes of a raw medium: those that its partition table names (master
 * boot record), or the medium itself. Only volumes with inodes and bitmaps
 * are read, whose superblock says 0xEF53; empty when there is none.
 */
export function volumesOf(medium: ByteSource): Volume[] {
  return [0, ...partitionsOf(medium)].flatMap((offset) => volumeAt(medium, offset) ?? []);
}

/** A quick look at a file's first 4 KiB: whether it may be a medium with volumes. */
export function mayHoldVolumes(head: Uint8Array): boolean {
  if (head.length < SUPERBLOCK_AT + 58) return false;
  return (head[510] === 0x55 && head[511] === 0xaa) || u16le(head, SUPERBLOCK_AT + 56) === MAGIC;
}

/** Offsets of the four primary partitions in use. */
function partitionsOf(medium: ByteSource): number[] {
  const first = medium.read(0, SECTOR);
  if (first.length < SECTOR || first[510] !== 0x55 || first[511] !== 0xaa) return [];
  return [0, 1, 2, 3].flatMap((n) => {
    const entry = first.subarray(PARTITIONS_AT + n * ENTRY, PARTITIONS_AT + (n + 1) * ENTRY);
    const start = u32le(entry, 8) * SECTOR;
    const isUsed = (entry[0] === 0 || entry[0] === 0x80) && entry[4] !== 0;
    return isUsed && start > 0 && start < medium.size ? [start] : [];
  });
}

const SUPERBLOCK_AT = 1024;
const SUPERBLOCK = 1024;
const MAGIC = 0xef53;
const SIXTY_FOUR_BIT = 0x80;
/** A group's bitmap was never written: nothing of it is in use but its own tables. */
const BITMAP_UNWRITTEN = 2;

interface Layout {
  blockSize: number;
  first: number;
  blocks: number;
  perGroup: number;
  descriptor: number;
}

function volumeAt(medium: ByteSource, offset: number): Volume | null {
  const block = medium.read(offset + SUPERBLOCK_AT, SUPERBLOCK);
  if (block.length < SUPERBLOCK || u16le(block, 56) !== MAGIC) return null;
  const power = u32le(block, 24);
  const blockSize = 1024 << power;
  const blocks = u32le(block, 4);
  const perGroup = u32le(block, 32);
  const isSound = power <= 6 && blocks > 0 && perGroup > 0 && perGroup <= blockSize * 8;
  if (!isSound) return null;
  const isLong = (u32le(block, 96) & SIXTY_FOUR_BIT) !== 0;
  const stated = isLong ? u16le(block, 254) : 32;
  const layout: Layout = {
    blockSize,
    first: u32le(block, 20),
    blocks,
    perGroup,
    descriptor: stated >= 32 && stated <= 1024 ? stated : 32
  };
  const bitmaps = new Map<number, Uint8Array | null>();
  return {
    offset,
    size: Math.min(blocks * blockSize, medium.size - offset),
    isInUse: (at) => inUse(medium, offset, layout, bitmaps, at)
  };
}

function inUse(
  medium: ByteSource,
  offset: number,
  { blockSize, first, blocks, perGroup, descriptor }: Layout,
  bitmaps: Map<number, Uint8Array | null>,
  at: number
): boolean | null {
  const block = Math.floor((at - offset) / blockSize);
  if (block < first || block >= blocks) return null;
  const group = Math.floor((block - first) / perGroup);
  let bitmap = bitmaps.get(group);
  if (bitmap === undefined) {
    const table = offset + (first + 1) * blockSize;
    const entry = medium.read(table + group * descriptor, descriptor);
    const isWritten = entry.length >= 20 && (u16le(entry, 18) & BITMAP_UNWRITTEN) === 0;
    bitmap = isWritten ? medium.read(offset + u32le(entry, 0) * blockSize, blockSize) : null;
    bitmaps.set(group, bitmap);
  }
  const bit = (block - first) % perGroup;
  const byte = bitmap?.[bit >> 3];
  return byte === undefined ? null : ((byte >> (bit & 7)) & 1) === 1;
}
