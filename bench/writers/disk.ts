/** What lies on a storage: files with their paths, and what is left of files that were deleted. */
export interface DiskContents {
  files: Record<string, Uint8Array>;
  /** Bytes that no file owns any more. */
  deleted: readonly Uint8Array[];
  /** Milliseconds since 1970, of every file. */
  modifiedAt: number;
  /** Of the file system, in blocks of 4 KiB; one group holds them all. */
  blocks: number;
}

const BLOCK = 4096;
const SECTOR = 512;
const FIRST_SECTOR = 2048;
const INODE = 256;
const INODES = 512;
const MOST_BLOCKS = BLOCK * 8;
/** Boot block with the superblock, descriptors, two bitmaps, then the table of inodes. */
const TABLE_AT = 4;
const DATA_AT = TABLE_AT + (INODES * INODE) / BLOCK;
const ROOT = 2;
const FIRST_FREE_INODE = 11;

/**
 * A storage, bit for bit: a partition table (master boot record) and one
 * volume of the kind with superblock 0xEF53, inodes and extents. Every file
 * lies in one piece; deleted ones lie between them in blocks that are free.
 * @throws RangeError when the contents do not fit
 */
export function writeDisk(contents: DiskContents): Buffer {
  if (contents.blocks > MOST_BLOCKS) throw new RangeError('One group holds at most 32,768 blocks.');
  const volume = new Volume(contents);
  const start = FIRST_SECTOR * SECTOR;
  const disk = Buffer.alloc(start + contents.blocks * BLOCK);
  const entry = disk.subarray(446, 462);
  entry[4] = 0x83;
  entry.writeUInt32LE(FIRST_SECTOR, 8);
  entry.writeUInt32LE((contents.blocks * BLOCK) / SECTOR, 12);
  disk[510] = 0x55;
  disk[511] = 0xaa;
  volume.write().copy(disk, start);
  return disk;
}

interface Folder {
  inode: number;
  parent: number;
  entries: { name: string; inode: number; isFolder: boolean }[];
}

class Volume {
  private readonly bytes: Buffer;
  private nextBlock = DATA_AT;
  private nextInode = FIRST_FREE_INODE;
  private readonly used = new Set<number>(Array.from({ length: DATA_AT }, (_, i) => i));
  private readonly folders = new Map<string, Folder>();

  constructor(private readonly contents: DiskContents) {
    this.bytes = Buffer.alloc(contents.blocks * BLOCK);
    this.folders.set('', { inode: ROOT, parent: ROOT, entries: [] });
  }

  write(): Buffer {
    const { files, deleted } = this.contents;
    // What was deleted lies among what is kept, as on a storage that was used.
    const paths = Object.keys(files);
    const every = Math.max(1, Math.floor(paths.length / (deleted.length + 1)));
    const gone = [...deleted];
    paths.forEach((path, i) => {
      this.addFile(path, files[path]!);
      if (i % every === every - 1 && gone.length > 0) this.place(gone.shift()!, false);
    });
    for (const bytes of gone) this.place(bytes, false);
    for (const folder of this.folders.values()) this.writeFolder(folder);
    this.writeBitmaps();
    this.writeSuperblock();
    return this.bytes;
  }

  private addFile(path: string, bytes: Uint8Array): void {
    const cut = path.lastIndexOf('/');
    const folder = this.folderOf(cut < 0 ? '' : path.slice(0, cut));
    const inode = this.nextInode++;
    this.writeInode(inode, 0o100644, 1, bytes.length, this.place(bytes, true));
    folder.entries.push({ name: path.slice(cut + 1), inode, isFolder: false });
  }

  private folderOf(path: string): Folder {
    const known = this.folders.get(path);
    if (known) return known;
    const cut = path.lastIndexOf('/');
    const above = this.folderOf(cut < 0 ? '' : path.slice(0, cut));
    const folder: Folder = { inode: this.nextInode++, parent: above.inode, entries: [] };
    above.entries.push({ name: path.slice(cut + 1), inode: folder.inode, isFolder: true });
    this.folders.set(path, folder);
    return folder;
  }

  /** Puts bytes into the next blocks; returns the first and how many. */
  private place(bytes: Uint8Array, isKept: boolean): { first: number; count: number } {
    const first = this.nextBlock;
    const count = Math.ceil(bytes.length / BLOCK);
    if (first + count > this.contents.blocks) throw new RangeError('The storage is too small.');
    this.bytes.set(bytes, first * BLOCK);
    if (isKept) for (let i = 0; i < count; i++) this.used.add(first + i);
    this.nextBlock += count;
    return { first, count };
  }

  private writeFolder({ inode, parent, entries }: Folder): void {
    const block = Buffer.alloc(BLOCK);
    const all = [
      { name: '.', inode, isFolder: true },
      { name: '..', inode: parent, isFolder: true },
      ...entries
    ];
    let at = 0;
    all.forEach((entry, i) => {
      const name = Buffer.from(entry.name);
      const least = 8 + Math.ceil(name.length / 4) * 4;
      const length = i === all.length - 1 ? BLOCK - at : least;
      if (at + least > BLOCK) throw new RangeError('A folder holds more than one block of names.');
      block.writeUInt32LE(entry.inode, at);
      block.writeUInt16LE(length, at + 4);
      block[at + 6] = name.length;
      block[at + 7] = entry.isFolder ? 2 : 1;
      name.copy(block, at + 8);
      at += length;
    });
    const links = 2 + entries.filter(({ isFolder }) => isFolder).length;
    this.writeInode(inode, 0o040755, links, BLOCK, this.place(block, true));
  }

  private writeInode(
    number: number,
    mode: number,
    links: number,
    size: number,
    { first, count }: { first: number; count: number }
  ): void {
    const at = TABLE_AT * BLOCK + (number - 1) * INODE;
    const inode = this.bytes.subarray(at, at + INODE);
    const seconds = Math.floor(this.contents.modifiedAt / 1000);
    inode.writeUInt16LE(mode, 0);
    inode.writeUInt32LE(size, 4);
    for (const time of [8, 12, 16]) inode.writeUInt32LE(seconds, time);
    inode.writeUInt16LE(links, 26);
    inode.writeUInt32LE((count * BLOCK) / SECTOR, 28);
    inode.writeUInt32LE(0x80000, 32);
    // A tree of extents that is one leaf with one extent, or none.
    inode.writeUInt16LE(0xf30a, 40);
    inode.writeUInt16LE(count > 0 ? 1 : 0, 42);
    inode.writeUInt16LE(4, 44);
    if (count > 0) {
      inode.writeUInt16LE(count, 56);
      inode.writeUInt32LE(first, 60);
    }
    inode.writeUInt16LE(32, 128);
  }

  private writeBitmaps(): void {
    const { blocks } = this.contents;
    const blockMap = this.bytes.subarray(2 * BLOCK, 3 * BLOCK);
    const inodeMap = this.bytes.subarray(3 * BLOCK, 4 * BLOCK);
    const set = (map: Buffer, bit: number): void => void (map[bit >> 3]! |= 1 << (bit & 7));
    for (const block of this.used) set(blockMap, block);
    for (let bit = blocks; bit < MOST_BLOCKS; bit++) set(blockMap, bit);
    for (let bit = 0; bit < this.nextInode - 1; bit++) set(inodeMap, bit);
    for (let bit = INODES; bit < MOST_BLOCKS; bit++) set(inodeMap, bit);
  }

  private writeSuperblock(): void {
    const { blocks, modifiedAt } = this.contents;
    const seconds = Math.floor(modifiedAt / 1000);
    const freeBlocks = blocks - this.used.size;
    const freeInodes = INODES - (this.nextInode - 1);
    const block = this.bytes.subarray(1024, 2048);
    const words: [number, number][] = [
      [0, INODES],
      [4, blocks],
      [12, freeBlocks],
      [16, freeInodes],
      [24, 2],
      [28, 2],
      [32, MOST_BLOCKS],
      [36, MOST_BLOCKS],
      [40, INODES],
      [44, seconds],
      [48, seconds],
      [64, seconds],
      [76, 1],
      [84, FIRST_FREE_INODE],
      // Entries of folders tell kinds; files are extents.
      [96, 0x42]
    ];
    for (const [at, value] of words) block.writeUInt32LE(value, at);
    block.writeUInt16LE(0xffff, 54);
    block.writeUInt16LE(0xef53, 56);
    block.writeUInt16LE(1, 58);
    block.writeUInt16LE(1, 60);
    block.writeUInt16LE(INODE, 88);
    const group = this.bytes.subarray(BLOCK, BLOCK + 32);
    group.writeUInt32LE(2, 0);
    group.writeUInt32LE(3, 4);
    group.writeUInt32LE(TABLE_AT, 8);
    group.writeUInt16LE(freeBlocks, 12);
    group.writeUInt16LE(freeInodes, 14);
    group.writeUInt16LE(this.folders.size, 16);
  }
}
