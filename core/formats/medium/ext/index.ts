// ext2, ext3 and ext4: live files by their folders, deleted ones by what folders, inodes and the journal still say.
import { ChunkedSource, MemorySource, u16le, u32le } from '../../../host';
import {
  DEEPEST,
  LOST,
  MOST_FILES,
  type Contents,
  type Deletion,
  type FileSystem,
  type FileSystemReader,
  type FoundFile
} from '../filesystem';
import { HOLE, type Extent } from '../runs';
import { Journal } from './journal';
import { ExtLayout, isFolder, isRegular, ROOT_INODE, type Inode } from './layout';

export const EXT: FileSystemReader = {
  begins: (head) => ExtLayout.at(new MemorySource('', head), 0) !== null,
  open(medium, offset) {
    const layout = ExtLayout.at(new ChunkedSource(medium), offset);
    return layout && new Ext(layout);
  }
};

/** A name in a folder, and the inode that it is of. */
interface Named {
  name: string;
  inode: number;
}

/** Most bytes of one folder. */
const MOST_FOLDER = 1 << 28;

class Ext implements FileSystem {
  readonly title: string;
  readonly label: string | null;
  readonly size: number;
  private readonly mine: Extent[] = [];
  /** Inodes that a live name leads to. */
  private readonly reached = new Set<number>();
  private readonly told = new Set<number>();
  /** Names that are gone from folders, found on the way. */
  private readonly gone: { names: string[]; named: Named; how: string }[] = [];
  private journal: Journal | null = null;

  constructor(private readonly layout: ExtLayout) {
    this.title = layout.title;
    this.label = layout.label;
    this.size = layout.size;
  }

  get used(): number {
    return (this.layout.blocks - this.layout.freeBlocks) * this.layout.blockSize;
  }

  *own(): Iterable<Extent> {
    yield { start: this.layout.offset, length: this.layout.headLength };
    for (let n = 0; n < this.layout.groups; n++) yield* this.layout.ownOf(n);
    yield* this.mine;
  }

  *files(): Generator<FoundFile> {
    this.journal = Journal.of(this.layout);
    yield* this.walk(ROOT_INODE, [], false);
    // Folders found on the way lead to further ones.
    for (let i = 0; i < this.gone.length && i < MOST_FILES; i++) yield* this.deleted(this.gone[i]!);
    yield* this.nameless();
  }

  private *walk(number: number, names: string[], isGone: boolean): Generator<FoundFile> {
    const inode = this.layout.inode(number);
    if (!inode || names.length > DEEPEST || this.reached.has(number)) return;
    this.reached.add(number);
    if (!isFolder(inode)) {
      if (isRegular(inode)) yield this.live(inode, names);
      return;
    }
    const data = this.layout.dataOf(inode);
    const live: Named[] = [];
    if (data instanceof Uint8Array) live.push(...namesIn(data.subarray(4), 0, data.length - 4));
    else live.push(...this.namesOf(data ?? [], names));
    for (const { name, inode: child } of live)
      if (this.reached.size < MOST_FILES) yield* this.walk(child, [...names, name], isGone);
  }

  /** The live names of a folder; those that are gone from its blocks are put aside. */
  private namesOf(data: readonly Extent[], names: string[]): Named[] {
    const live: Named[] = [];
    const lost: { named: Named; how: string }[] = [];
    let read = 0;
    for (const { start, length } of data) {
      if (start === HOLE) continue;
      this.mine.push({ start, length });
      for (let at = start; at < start + length && read < MOST_FOLDER; at += this.layout.blockSize) {
        read += this.layout.blockSize;
        const block = this.layout.medium.read(at, this.layout.blockSize);
        live.push(...namesIn(block, 0, block.length));
        for (const named of slackOf(block)) lost.push({ named, how: SLACK });
        const number = (at - this.layout.offset) / this.layout.blockSize;
        for (const copy of this.journal?.of(number) ?? [])
          for (const named of namesIn(copy, 0, copy.length)) lost.push({ named, how: COPY });
      }
    }
    const known = new Set(live.map(({ name, inode }) => `${inode} ${name}`));
    for (const { named, how } of lost) {
      const key = `${named.inode} ${named.name}`;
      if (known.has(key)) continue;
      known.add(key);
      this.gone.push({ names: [...names, named.name], named, how });
    }
    return live;
  }

  private live(inode: Inode, names: string[]): FoundFile {
    return {
      names,
      size: inode.size,
      data: this.layout.dataOf(inode) ?? [],
      modifiedAt: inode.modifiedAt || null,
      createdAt: inode.createdAt || null,
      deleted: null
    };
  }

  private *deleted({ names, named, how }: (typeof this.gone)[number]): Generator<FoundFile> {
    const { inode: number } = named;
    if (this.told.has(number) || number < 11) return;
    const found = this.lastOf(number);
    if (!found) return;
    this.told.add(number);
    const { inode, data } = found;
    if (isRegular(inode)) yield this.lostFile(found, names, how);
    else if (isFolder(inode) && Array.isArray(data) && names.length <= DEEPEST)
      for (const { start, length } of data) {
        if (start === HOLE) continue;
        for (let at = start; at < start + length; at += this.layout.blockSize) {
          const number = (at - this.layout.offset) / this.layout.blockSize;
          if (this.layout.isUsed(number)) continue;
          const block = this.layout.medium.read(at, this.layout.blockSize);
          const all = [...namesIn(block, 0, block.length), ...slackOf(block)];
          for (const named of all)
            this.gone.push({
              names: [...names, named.name],
              named,
              how: 'listed by a deleted folder'
            });
        }
      }
  }

  /** The last state of an inode that leads to bytes: what stands in it, or a copy of the journal. */
  private lastOf(
    number: number
  ): { inode: Inode; data: Extent[] | Uint8Array; isCopy: boolean } | null {
    const now = this.layout.inode(number);
    const isLive = now !== null && now.links > 0 && now.deletedAt === 0 && this.reached.has(number);
    if (now && !isLive && (isRegular(now) || isFolder(now))) {
      const data = now.size > 0 ? this.layout.dataOf(now) : null;
      if (data && data.length > 0) return { inode: now, data, isCopy: false };
    }
    const { block, within } = this.layout.placeOf(number);
    for (const copy of this.journal?.of(block) ?? []) {
      const inode = this.layout.inodeIn(copy, within, number);
      if (!inode || inode.links === 0 || inode.size === 0) continue;
      if (!isRegular(inode) && !isFolder(inode)) continue;
      // A number that was given again is another file.
      if (isLive && inode.generation === now.generation) continue;
      const data = this.layout.dataOf(inode);
      if (data && data.length > 0) return { inode, data, isCopy: true };
    }
    return null;
  }

  private lostFile(
    { inode, data, isCopy }: { inode: Inode; data: Extent[] | Uint8Array; isCopy: boolean },
    names: string[],
    how: string
  ): FoundFile {
    const told = isCopy ? `${how}, its place by a copy in the journal` : how;
    const deleted: Deletion = { how: told, contents: this.stateOf(data) };
    const { size, modifiedAt, createdAt } = inode;
    return {
      names,
      size,
      data,
      modifiedAt: modifiedAt || null,
      createdAt: createdAt || null,
      deleted
    };
  }

  private stateOf(data: Extent[] | Uint8Array): Contents {
    if (data instanceof Uint8Array) return 'intact';
    const { offset, blockSize } = this.layout;
    for (const { start, length } of data) {
      if (start === HOLE) continue;
      for (let at = start; at < start + length; at += blockSize)
        if (this.layout.isUsed((at - offset) / blockSize)) return 'overwritten';
    }
    return 'intact';
  }

  /** Deleted inodes to which no name leads. */
  private *nameless(): Generator<FoundFile> {
    for (let n = 0; n < this.layout.groups; n++) {
      const { inodes } = this.layout.tableOf(n);
      for (let i = 0; i < inodes; i++) {
        const number = n * this.layout.inodesPerGroup + i + 1;
        if (number < 11 || this.reached.has(number) || this.told.has(number)) continue;
        const now = this.layout.inode(number);
        if (!now || (now.mode === 0 && now.deletedAt === 0)) continue;
        const found = this.lastOf(number);
        if (!found || !isRegular(found.inode)) continue;
        this.told.add(number);
        yield this.lostFile(found, [LOST, `inode ${number}`], 'its inode is no longer in use');
      }
    }
  }
}

const SLACK = 'its name lies unused in the folder';
const COPY = 'its name stands in a copy of the folder in the journal';

const utf8 = new TextDecoder('utf-8', { fatal: true });

/** The name at a place, where it can be one. */
function nameAt(block: Uint8Array, at: number, length: number): string | null {
  const bytes = block.subarray(at, at + length);
  if (bytes.length < length || bytes.some((byte) => byte < 0x20 || byte === 0x2f)) return null;
  try {
    return utf8.decode(bytes);
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

/** The names of a block of a folder, but for its own and its parent's. */
function* namesIn(block: Uint8Array, from: number, to: number): Generator<Named> {
  for (let at = from; at + 8 <= to;) {
    const [inode, length, nameLength] = [u32le(block, at), u16le(block, at + 4), block[at + 6]!];
    if (length < 8 || at + length > to || length % 4 !== 0) return;
    const name =
      nameLength > 0 && 8 + nameLength <= length ? nameAt(block, at + 8, nameLength) : null;
    if (inode !== 0 && name !== null && name !== '.' && name !== '..') yield { name, inode };
    at += length;
  }
}

/** Names in what entries have left over: an entry that is taken out is only skipped by the one before it. */
function* slackOf(block: Uint8Array): Generator<Named> {
  for (let at = 0; at + 8 <= block.length;) {
    const [inode, length, nameLength] = [u32le(block, at), u16le(block, at + 4), block[at + 6]!];
    if (length < 8 || at + length > block.length) return;
    const own = inode === 0 ? 0 : 8 + Math.ceil(nameLength / 4) * 4;
    for (let within = at + own; within + 12 <= at + length; within += 4) {
      const named = leftAt(block, within, at + length);
      if (named) yield named;
    }
    at += length;
  }
}

function leftAt(block: Uint8Array, at: number, end: number): Named | null {
  const [inode, length, nameLength, type] = [
    u32le(block, at),
    u16le(block, at + 4),
    block[at + 6]!,
    block[at + 7]!
  ];
  if (inode === 0 || nameLength === 0 || type > 7 || length % 4 !== 0) return null;
  if (length < 8 + nameLength || at + 8 + nameLength > end) return null;
  const name = nameAt(block, at + 8, nameLength);
  return name === null || name === '.' || name === '..' ? null : { name, inode };
}
