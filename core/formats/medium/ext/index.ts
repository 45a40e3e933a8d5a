// ext2, ext3 and ext4: live files by their folders, deleted ones by what folders, inodes and the journal still say.
import { ChunkedSource, MemorySource } from '../../../host';
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
import { ExtLayout, isFolder, isRegular, ROOT_INODE, SUPERBLOCK_AT, type Inode } from './layout';
import { namesIn, slackOf, type Named } from './names';

export const EXT: FileSystemReader = {
  begins: (head) => ExtLayout.of(new MemorySource('', head), 0, head) !== null,
  // The second group holds a copy of the superblock, which begins its block there.
  copies: () => [8193 * 1024, 16384 * 2048, 32768 * 4096].map((at) => at - SUPERBLOCK_AT),
  open(medium, offset, head) {
    const layout = ExtLayout.of(new ChunkedSource(medium), offset, head);
    return layout && new Ext(layout);
  }
};

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
  private readonly gone: GoneName[] = [];
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
    // Deleted folders lead to further names; an inode can have had several.
    const byInode = new Map<number, GoneName[]>();
    for (let i = 0; i < this.gone.length && i < MOST_FILES; i++) {
      const gone = this.gone[i]!;
      if (gone.inode < FIRST_INODE || this.opened(gone)) continue;
      if (gone.type !== IS_FILE && gone.type !== UNTOLD) continue;
      byInode.set(gone.inode, [...(byInode.get(gone.inode) ?? []), gone]);
    }
    for (const [number, names] of byInode) yield* this.deleted(number, names);
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
    if (data instanceof Uint8Array) live.push(...this.inlineNames(inode, data, names));
    else live.push(...this.namesOf(data ?? [], names));
    for (const { name, inode: child } of live)
      if (this.reached.size < MOST_FILES) yield* this.walk(child, [...names, name], isGone);
  }

  /** The same of a small folder, whose names stand in its inode behind the number of its parent. */
  private inlineNames(inode: Inode, data: Uint8Array, names: string[]): Named[] {
    const entries = data.subarray(INLINE_FROM);
    const live = [...namesIn(entries)];
    const lost: Lost[] = [...slackOf(entries)].map((named) => ({ named, how: SLACK, seen: 0 }));
    const { block, within } = this.layout.placeOf(inode.number);
    for (const { bytes, sequence } of this.journal?.of(block) ?? []) {
      const earlier = this.layout.inodeIn(bytes, within, inode.number);
      const had = earlier && isFolder(earlier) ? this.layout.dataOf(earlier) : null;
      if (had instanceof Uint8Array)
        for (const named of namesIn(had.subarray(INLINE_FROM)))
          lost.push({ named, how: COPY, seen: sequence });
    }
    this.putAside(lost, live, names);
    return live;
  }

  /** The live names of a folder; those that are gone from its blocks are put aside. */
  private namesOf(data: readonly Extent[], names: string[]): Named[] {
    const live: Named[] = [];
    const lost: Lost[] = [];
    let read = 0;
    for (const { start, length } of data) {
      if (start === HOLE) continue;
      this.mine.push({ start, length });
      for (let at = start; at < start + length && read < MOST_FOLDER; at += this.layout.blockSize) {
        read += this.layout.blockSize;
        const block = this.layout.medium.read(at, this.layout.blockSize);
        live.push(...namesIn(block));
        for (const named of slackOf(block)) lost.push({ named, how: SLACK, seen: 0 });
        const number = (at - this.layout.offset) / this.layout.blockSize;
        lost.push(...this.copiedNames(number));
      }
    }
    this.putAside(lost, live, names);
    return live;
  }

  /** Names in earlier copies of a folder's block. */
  private *copiedNames(block: number): Generator<Lost> {
    for (const { bytes, sequence } of this.journal?.of(block) ?? [])
      for (const named of namesIn(bytes)) yield { named, how: COPY, seen: sequence };
  }

  /** Each name once, as it was seen last. */
  private putAside(lost: readonly Lost[], live: readonly Named[], names: string[]): void {
    const keyOf = ({ name, inode }: Named): string => `${inode} ${name}`;
    const known = new Set(live.map(keyOf));
    const found = new Map<string, GoneName>();
    for (const { named, how, seen } of lost) {
      const key = keyOf(named);
      if (known.has(key)) continue;
      const other = found.get(key);
      if (other) other.seen = Math.max(other.seen, seen);
      else {
        const { name, inode, type } = named;
        found.set(key, { names: [...names, name], inode, type, how, seen });
      }
    }
    this.gone.push(...found.values());
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

  /** Whether a name is that of a deleted folder; what it listed is put aside. */
  private opened({ names, inode: number, type }: GoneName): boolean {
    if (type !== IS_FOLDER && type !== UNTOLD) return false;
    const last = [...this.versionsOf(number)].find(({ inode }) => isFolder(inode));
    if (!last) return type === IS_FOLDER;
    if (this.told.has(number) || names.length > DEEPEST) return true;
    this.told.add(number);
    const lost: Lost[] = [];
    for (const { bytes, copies } of this.blocksOfGone(last.data)) {
      const all = [...namesIn(bytes), ...slackOf(bytes)];
      for (const named of all) lost.push({ named, how: GONE, seen: 0 });
      for (const { named, seen } of copies) lost.push({ named, how: GONE, seen });
    }
    this.putAside(lost, [], names);
    return true;
  }

  /** What was the last to have an inode's number was seen under its last name. */
  private *deleted(number: number, names: GoneName[]): Generator<FoundFile> {
    names.sort((a, b) => b.seen - a.seen);
    let n = 0;
    for (const version of this.versionsOf(number)) {
      if (!isRegular(version.inode)) continue;
      const gone = names[n++];
      if (!gone) break;
      this.told.add(number);
      yield this.lostFile(version, gone.names, gone.how);
    }
  }

  /** The entries of a deleted folder, where they still stand, and those of earlier copies. */
  private *blocksOfGone(
    data: Extent[] | Uint8Array
  ): Generator<{ bytes: Uint8Array; copies: Lost[] }> {
    if (data instanceof Uint8Array) return yield { bytes: data.subarray(INLINE_FROM), copies: [] };
    const { offset, blockSize, medium } = this.layout;
    for (const { start, length } of data) {
      if (start === HOLE) continue;
      for (let at = start; at < start + length; at += blockSize) {
        const number = (at - offset) / blockSize;
        if (this.layout.isUsed(number)) continue;
        yield { bytes: medium.read(at, blockSize), copies: [...this.copiedNames(number)] };
      }
    }
  }

  /** The states of an inode that lead to bytes, each of another file, the last one first: what stands in it, and copies in the journal. */
  private *versionsOf(number: number): Generator<Version> {
    const now = this.layout.inode(number);
    const isLive = now !== null && this.reached.has(number) && now.links > 0 && now.deletedAt === 0;
    const given = new Set<number>();
    if (isLive) given.add(now.generation);
    else if (now && now.size > 0 && (isRegular(now) || isFolder(now))) {
      const data = this.layout.dataOf(now);
      if (data && data.length > 0) {
        given.add(now.generation);
        yield { inode: now, data, isCopy: false };
      }
    }
    const { block, within } = this.layout.placeOf(number);
    for (const { bytes } of this.journal?.of(block) ?? []) {
      const inode = this.layout.inodeIn(bytes, within, number);
      if (!inode || inode.links === 0 || inode.size === 0 || given.has(inode.generation)) continue;
      if (!isRegular(inode) && !isFolder(inode)) continue;
      const data = this.layout.dataOf(inode);
      if (!data || data.length === 0) continue;
      given.add(inode.generation);
      yield { inode, data, isCopy: true };
    }
  }

  private lostFile({ inode, data, isCopy }: Version, names: string[], how: string): FoundFile {
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
        if (number < FIRST_INODE || this.reached.has(number) || this.told.has(number)) continue;
        const now = this.layout.inode(number);
        if (!now || (now.mode === 0 && now.deletedAt === 0)) continue;
        const [found] = this.versionsOf(number);
        if (!found || !isRegular(found.inode)) continue;
        yield this.lostFile(found, [LOST, `inode ${number}`], 'its inode is no longer in use');
      }
    }
  }
}

/** Entries in an inode stand behind the number of the parent. */
const INLINE_FROM = 4;

/** A name that a folder no longer has. */
interface Lost {
  named: Named;
  how: string;
  /** Number of the last transaction in which it is seen; 0 where none shows it. */
  seen: number;
}

interface GoneName extends Omit<Lost, 'named'> {
  /** From the root down. */
  names: string[];
  inode: number;
  type: number;
}

/** A file that an inode stood for. */
interface Version {
  inode: Inode;
  data: Extent[] | Uint8Array;
  /** It stands in a copy of the journal. */
  isCopy: boolean;
}

/** Types of entries that a folder tells. */
const UNTOLD = 0;
const IS_FILE = 1;
const IS_FOLDER = 2;
/** Inodes before this one are the file system's own. */
const FIRST_INODE = 11;

const GONE = 'listed by a deleted folder';
const SLACK = 'its name lies unused in the folder';
const COPY = 'its name stands in a copy of the folder in the journal';
