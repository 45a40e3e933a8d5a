// ext2, ext3 and ext4 as they lie on a volume: superblock, groups, inodes, and where an inode's bytes are.
import { u16le, u32le, type ByteSource } from '../../../host';
import { HOLE, joinedRuns, type Extent } from '../runs';

/** Where a volume has its superblock. */
export const SUPERBLOCK_AT = 1024;
const MAGIC = 0xef53;
/** Incompatible features. */
const META_GROUPS = 0x10;
const SIXTY_FOUR_BITS = 0x80;
/** Flags of an inode. */
const HAS_EXTENTS = 0x80000;
const IS_INLINE = 0x1000_0000;
/** Flags of a group. */
const INODES_UNWRITTEN = 1;
const BITMAP_UNWRITTEN = 2;
const EXTENT_MAGIC = 0xf30a;
/** Blocks of a group at least, as the tools make them. */
const LEAST_GROUP = 256;
/** Extents of one file, and blocks of one map, beyond which it is damaged. */
const MOST_EXTENTS = 1_000_000;

export const ROOT_INODE = 2;

export interface Inode {
  number: number;
  mode: number;
  size: number;
  links: number;
  flags: number;
  generation: number;
  /** Milliseconds; 0 is none. */
  modifiedAt: number;
  createdAt: number;
  /** Seconds; 0 where it is not deleted. */
  deletedAt: number;
  /** Its block numbers, tree of extents or first bytes. */
  block: Uint8Array;
  /** All of it. */
  bytes: Uint8Array;
}

const TYPE = 0xf000;
export const isFolder = ({ mode }: Inode): boolean => (mode & TYPE) === 0x4000;
export const isRegular = ({ mode }: Inode): boolean => (mode & TYPE) === 0x8000;

/** What a superblock says, and how to get at blocks and inodes (kernel documentation, "ext4 Data Structures and Algorithms"). */
export class ExtLayout {
  readonly blockSize: number;
  readonly blocks: number;
  readonly inodes: number;
  readonly label: string | null;
  readonly journalInode: number;
  readonly title: string;
  readonly freeBlocks: number;
  readonly perGroup: number;
  readonly inodesPerGroup: number;
  private readonly inodeSize: number;
  private readonly first: number;
  private readonly descriptor: number;
  private readonly isLong: boolean;
  private readonly bitmaps = new Map<number, Uint8Array | null>();

  private constructor(
    readonly medium: ByteSource,
    readonly offset: number,
    sb: Uint8Array
  ) {
    this.blockSize = 1024 << u32le(sb, 24);
    const incompatible = u32le(sb, 96);
    this.isLong = (incompatible & SIXTY_FOUR_BITS) !== 0;
    this.inodes = u32le(sb, 0);
    const stated = u32le(sb, 4) + (this.isLong ? u32le(sb, 336) * 2 ** 32 : 0);
    // What lies past the medium's end is not there, whatever is said of it.
    this.blocks = Math.min(stated, Math.ceil((medium.size - offset) / this.blockSize));
    this.freeBlocks = u32le(sb, 12) + (this.isLong ? u32le(sb, 344) * 2 ** 32 : 0);
    this.first = u32le(sb, 20);
    this.perGroup = u32le(sb, 32);
    this.inodesPerGroup = u32le(sb, 40);
    this.inodeSize = u32le(sb, 76) === 0 ? 128 : u16le(sb, 88);
    const descriptor = u16le(sb, 254);
    this.descriptor = this.isLong && descriptor >= 64 ? descriptor : 32;
    this.journalInode = (u32le(sb, 92) & 4) !== 0 ? u32le(sb, 224) : 0;
    const name = new TextDecoder().decode(sb.subarray(120, 136)).replace(/\0.*$/s, '');
    this.label = name === '' ? null : name;
    const isFourth = (incompatible & 0x2c0) !== 0;
    this.title = isFourth ? 'ext4' : this.journalInode > 0 ? 'ext3' : 'ext2';
  }

  /** Null where no such superblock is there, or what it says cannot be. */
  static of(medium: ByteSource, offset: number, head: Uint8Array): ExtLayout | null {
    const sb = head.subarray(SUPERBLOCK_AT, SUPERBLOCK_AT + 1024);
    if (sb.length < 1024 || u16le(sb, 56) !== MAGIC || u32le(sb, 24) > 6) return null;
    const layout = new ExtLayout(medium, offset, sb);
    const { blockSize, perGroup, inodesPerGroup, inodeSize, blocks, inodes } = layout;
    const isSound =
      blocks > 0 &&
      inodes > 0 &&
      perGroup >= LEAST_GROUP &&
      perGroup <= blockSize * 8 &&
      inodesPerGroup > 0 &&
      inodeSize >= 128 &&
      inodeSize <= blockSize &&
      inodesPerGroup <= blockSize * 8 &&
      (u32le(sb, 96) & META_GROUPS) === 0;
    return isSound ? layout : null;
  }

  get size(): number {
    return this.blocks * this.blockSize;
  }

  get groups(): number {
    return Math.ceil((this.blocks - this.first) / this.perGroup);
  }

  /** Offset of a block in the medium. */
  at(block: number): number {
    return this.offset + block * this.blockSize;
  }

  read(block: number): Uint8Array {
    return block > 0 && block < this.blocks
      ? this.medium.read(this.at(block), this.blockSize)
      : new Uint8Array(0);
  }

  private group(n: number): Uint8Array {
    return this.medium.read(this.at(this.first + 1) + n * this.descriptor, this.descriptor);
  }

  private blockIn(group: Uint8Array, low: number): number {
    const high = this.isLong && this.descriptor >= 64 ? u32le(group, low + 32) : 0;
    return high * 2 ** 32 + u32le(group, low);
  }

  /** The first block of a group's inodes, and how many of them were ever written. */
  tableOf(n: number): { block: number; inodes: number } {
    const group = this.group(n);
    if (group.length < 32) return { block: 0, inodes: 0 };
    const isUnwritten = (u16le(group, 18) & INODES_UNWRITTEN) !== 0;
    const unused = this.title === 'ext4' ? u16le(group, 28) : 0;
    const inodes = isUnwritten ? 0 : Math.max(0, this.inodesPerGroup - unused);
    return { block: this.blockIn(group, 8), inodes };
  }

  /** Blocks that are the file system's own in a group: its bitmaps and inodes. */
  *ownOf(n: number): Generator<Extent> {
    const group = this.group(n);
    if (group.length < 32) return;
    for (const low of [0, 4])
      yield { start: this.at(this.blockIn(group, low)), length: this.blockSize };
    const length =
      Math.ceil((this.inodesPerGroup * this.inodeSize) / this.blockSize) * this.blockSize;
    yield { start: this.at(this.blockIn(group, 8)), length };
  }

  /** Where the superblock and the list of groups end. */
  get headLength(): number {
    return (this.first + 1) * this.blockSize + this.groups * this.descriptor;
  }

  isUsed(block: number): boolean {
    const n = Math.floor((block - this.first) / this.perGroup);
    let bitmap = this.bitmaps.get(n);
    if (bitmap === undefined) {
      const group = this.group(n);
      const isWritten = group.length >= 32 && (u16le(group, 18) & BITMAP_UNWRITTEN) === 0;
      bitmap = isWritten ? new Uint8Array(this.read(this.blockIn(group, 0))) : null;
      this.bitmaps.set(n, bitmap);
    }
    const bit = (block - this.first) % this.perGroup;
    return (((bitmap?.[bit >> 3] ?? 0) >> (bit & 7)) & 1) === 1;
  }

  /** The block that holds an inode, and where in it. */
  placeOf(number: number): { block: number; within: number } {
    const n = Math.floor((number - 1) / this.inodesPerGroup);
    const at = ((number - 1) % this.inodesPerGroup) * this.inodeSize;
    const { block } = this.tableOf(n);
    return { block: block + Math.floor(at / this.blockSize), within: at % this.blockSize };
  }

  inode(number: number): Inode | null {
    if (number < 1 || number > this.inodes) return null;
    const { block, within } = this.placeOf(number);
    return this.inodeIn(this.read(block), within, number);
  }

  /** An inode out of a copy of its block. */
  inodeIn(block: Uint8Array, within: number, number: number): Inode | null {
    const bytes = block.subarray(within, within + this.inodeSize);
    if (bytes.length < 128) return null;
    const mode = u16le(bytes, 0);
    const hasHigh = (mode & TYPE) === 0x8000 || (mode & TYPE) === 0x4000;
    const hasCreation = bytes.length >= 152 && u16le(bytes, 128) >= 24;
    return {
      ...{ number, mode, bytes },
      size: u32le(bytes, 4) + (hasHigh ? u32le(bytes, 108) * 2 ** 32 : 0),
      links: u16le(bytes, 26),
      flags: u32le(bytes, 32),
      generation: u32le(bytes, 100),
      modifiedAt: u32le(bytes, 16) * 1000,
      createdAt: hasCreation ? u32le(bytes, 144) * 1000 : 0,
      deletedAt: u32le(bytes, 20),
      block: bytes.subarray(40, 100)
    };
  }

  /** Where an inode's bytes lie; the bytes themselves where it holds them; null where it leads nowhere. */
  dataOf(inode: Inode): Extent[] | Uint8Array | null {
    if ((inode.flags & IS_INLINE) !== 0) return inlineBytes(inode);
    if (inode.size === 0) return [];
    const blocks = (inode.flags & HAS_EXTENTS) !== 0 ? this.byExtents(inode) : this.byMap(inode);
    return blocks && joinedRuns(cutTo(blocks, inode.size));
  }

  private byExtents(inode: Inode): Extent[] | null {
    const found: { at: number; block: number; count: number }[] = [];
    const seen = new Set<number>();
    const walk = (node: Uint8Array, depth: number): boolean => {
      if (node.length < 12 || u16le(node, 0) !== EXTENT_MAGIC || u16le(node, 6) !== depth)
        return false;
      const count = u16le(node, 2);
      for (let n = 0; n < count && 12 * (n + 2) <= node.length; n++) {
        const at = 12 * (n + 1);
        if (depth > 0) {
          const child = u32le(node, at + 4) + u16le(node, at + 8) * 2 ** 32;
          if (seen.has(child) || seen.size > MOST_EXTENTS) return false;
          seen.add(child);
          if (!walk(this.read(child), depth - 1)) return false;
          continue;
        }
        const length = u16le(node, at + 4);
        const start = u32le(node, at + 8) + u16le(node, at + 6) * 2 ** 32;
        // A length past 32768 marks what was set aside, and never written.
        const isWritten = length <= 0x8000;
        const blocks = isWritten ? length : length - 0x8000;
        if (blocks === 0 || start + blocks > this.blocks || found.length > MOST_EXTENTS)
          return false;
        found.push({ at: u32le(node, at), block: isWritten ? start : HOLE, count: blocks });
      }
      return true;
    };
    const depth = u16le(inode.block, 6);
    if (depth > 5 || !walk(inode.block, depth) || found.length === 0) return null;
    found.sort((a, b) => a.at - b.at);
    const out: Extent[] = [];
    let next = 0;
    for (const { at, block, count } of found) {
      if (at > next) out.push({ start: HOLE, length: (at - next) * this.blockSize });
      const start = block === HOLE ? HOLE : this.at(block);
      out.push({ start, length: count * this.blockSize });
      next = at + count;
    }
    return padded(out, inode.size);
  }

  /** Twelve blocks, then blocks of numbers, to three levels. */
  private byMap(inode: Inode): Extent[] | null {
    const wanted = Math.ceil(inode.size / this.blockSize);
    if (wanted > this.blocks) return null;
    const out: Extent[] = [];
    let taken = 0;
    const give = (block: number): boolean => {
      if (block >= this.blocks) return false;
      out.push({ start: block === 0 ? HOLE : this.at(block), length: this.blockSize });
      taken++;
      return true;
    };
    const each = (block: number, level: number): boolean => {
      if (taken >= wanted) return true;
      if (level === 0) return give(block);
      const under = (this.blockSize / 4) ** level;
      if (block === 0) {
        const skipped = Math.min(under, wanted - taken);
        out.push({ start: HOLE, length: skipped * this.blockSize });
        taken += skipped;
        return true;
      }
      const numbers = new Uint8Array(this.read(block));
      if (numbers.length === 0) return false;
      for (let at = 0; at + 4 <= numbers.length && taken < wanted; at += 4)
        if (!each(u32le(numbers, at), level - 1)) return false;
      return true;
    };
    for (let n = 0; n < 15; n++)
      if (!each(u32le(inode.block, 4 * n), n < 12 ? 0 : n - 11)) return null;
    return out.some(({ start }) => start !== HOLE) ? out : null;
  }
}

function padded(extents: Extent[], size: number): Extent[] {
  const reached = extents.reduce((sum, { length }) => sum + length, 0);
  return reached < size ? [...extents, { start: HOLE, length: size - reached }] : extents;
}

function* cutTo(extents: readonly Extent[], size: number): Generator<Extent> {
  let left = size;
  for (const { start, length } of extents) {
    if (left <= 0) return;
    yield { start, length: Math.min(length, left) };
    left -= length;
  }
}

/** Up to sixty bytes stand in place of the block numbers, the rest in an attribute of the inode ("system.data"). */
function inlineBytes({ block, bytes, size }: Inode): Uint8Array {
  const out = new Uint8Array(Math.min(size, bytes.length));
  out.set(block.subarray(0, Math.min(60, out.length)));
  if (out.length <= 60) return out;
  const from = 128 + u16le(bytes, 128);
  if (from + 4 > bytes.length || u32le(bytes, from) !== 0xea02_0000) return out.subarray(0, 60);
  const first = from + 4;
  for (let at = first; at + 16 <= bytes.length && bytes[at] !== 0;) {
    const nameLength = bytes[at]!;
    const name = String.fromCharCode(...bytes.subarray(at + 16, at + 16 + nameLength));
    if (bytes[at + 1] === 7 && name === 'data') {
      const value = first + u16le(bytes, at + 2);
      out.set(bytes.subarray(value, value + out.length - 60), 60);
      return out;
    }
    at += 16 + Math.ceil(nameLength / 4) * 4;
  }
  return out.subarray(0, 60);
}
