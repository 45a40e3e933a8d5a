// FAT12, FAT16 and FAT32, by the file system's specification of 2000 (version 1.03), with deleted entries.
import { byteText, ChunkedSource, u16le, u32le, type ByteSource } from '../../host';
import { Clusters, clustersWithin, dosMoment, type EntryBits, type Place } from './clusters';
import {
  DEEPEST,
  MOST_FILES,
  type FileSystem,
  type FileSystemReader,
  type FoundFile
} from './filesystem';
import { hasBootMark } from './partitions';
import type { Extent } from './runs';

const ENTRY = 32;
const DELETED = 0xe5;
/** Attributes of section 6. */
const LONG_NAME = 0x0f;
const VOLUME = 0x08;
const FOLDER = 0x10;
/** Clusters of one folder: sixty-five thousand entries, and room for what longer names take. */
const MOST_FOLDER_BYTES = 1 << 27;

interface Shape {
  sector: number;
  bits: EntryBits;
  /** In bytes from the volume's beginning. */
  table: number;
  root: number;
  rootBytes: number;
  heap: number;
  size: number;
  cluster: number;
  count: number;
  rootCluster: number;
}

/** The shape that a boot sector tells; null where it is none (section 3). */
function shapeOf(boot: Uint8Array): Shape | null {
  if (boot.length < 512 || !hasBootMark(boot) || (boot[0] !== 0xeb && boot[0] !== 0xe9))
    return null;
  const [sector, perCluster, reserved, tables] = [
    u16le(boot, 11),
    boot[13]!,
    u16le(boot, 14),
    boot[16]!
  ];
  const isSector = sector >= 512 && sector <= 4096 && (sector & (sector - 1)) === 0;
  const isCluster = perCluster > 0 && (perCluster & (perCluster - 1)) === 0;
  if (!isSector || !isCluster || reserved === 0 || tables < 1 || tables > 4) return null;
  const rootEntries = u16le(boot, 17);
  const total = u16le(boot, 19) || u32le(boot, 32);
  const tableSectors = u16le(boot, 22) || u32le(boot, 36);
  if (total === 0 || tableSectors === 0) return null;
  const root = reserved + tables * tableSectors;
  const rootSectors = Math.ceil((rootEntries * ENTRY) / sector);
  const heap = root + rootSectors;
  const count = Math.floor((total - heap) / perCluster);
  if (count < 1) return null;
  const isOld = u16le(boot, 22) !== 0;
  const bits = !isOld ? 32 : count < 4085 ? 12 : 16;
  return {
    ...{ sector, bits, count },
    table: reserved * sector,
    root: root * sector,
    rootBytes: rootEntries * ENTRY,
    heap: heap * sector,
    size: total * sector,
    cluster: perCluster * sector,
    rootCluster: isOld ? 0 : u32le(boot, 44)
  };
}

export const FAT: FileSystemReader = {
  begins: (head) => shapeOf(head) !== null,
  copies: () => [6 * 512],
  open(medium, offset, head) {
    const shape = shapeOf(head);
    if (!shape) return null;
    // Clusters past the medium's end are not there, whatever the boot sector says.
    const count = clustersWithin(medium, offset + shape.heap, shape.cluster, shape.count);
    return new Fat(new ChunkedSource(medium), offset, { ...shape, count });
  }
};

class Fat implements FileSystem {
  readonly title: string;
  readonly size: number;
  readonly label: string | null;
  private readonly clusters: Clusters;
  private readonly folders: Extent[] = [];
  private listed = 0;

  constructor(
    private readonly medium: ByteSource,
    private readonly offset: number,
    private readonly shape: Shape
  ) {
    this.title = `FAT${shape.bits}`;
    this.size = shape.size;
    this.clusters = new Clusters({
      medium,
      table: offset + shape.table,
      heap: offset + shape.heap,
      bytes: shape.cluster,
      count: shape.count,
      bits: shape.bits
    });
    this.label = labelIn(this.root());
  }

  get used(): number {
    return this.clusters.usedCount() * this.shape.cluster;
  }

  *own(): Iterable<Extent> {
    yield { start: this.offset, length: this.shape.heap };
    yield* this.folders;
  }

  private root(): Uint8Array {
    const { root, rootBytes, rootCluster, bits } = this.shape;
    if (bits !== 32) return this.medium.read(this.offset + root, rootBytes);
    return this.folderBytes([...this.clusters.chain(rootCluster)]);
  }

  private folderBytes(clusters: readonly number[]): Uint8Array {
    const most = Math.floor(MOST_FOLDER_BYTES / this.shape.cluster);
    const kept = clusters.slice(0, Math.max(1, most));
    const bytes = new Uint8Array(kept.length * this.shape.cluster);
    for (const [i, cluster] of kept.entries()) {
      bytes.set(this.clusters.read(cluster), i * this.shape.cluster);
      this.folders.push({ start: this.clusters.at(cluster), length: this.shape.cluster });
    }
    return bytes;
  }

  *files(): Generator<FoundFile> {
    // Deleted ones last: what is live is known by then.
    const deleted: FoundFile[] = [];
    const seen = new Set<number>([this.shape.rootCluster]);
    for (const file of this.walk(this.root(), [], false, seen))
      if (file.deleted) deleted.push(file);
      else yield file;
    yield* settled(deleted);
  }

  private *walk(
    bytes: Uint8Array,
    names: readonly string[],
    isGone: boolean,
    seen: Set<number>
  ): Generator<FoundFile> {
    if (names.length > DEEPEST) return;
    for (const entry of withFirstLetters([...entriesIn(bytes)])) {
      if (++this.listed > MOST_FILES) return;
      const isDeleted = isGone || entry.isDeleted;
      const path = [...names, entry.name];
      if (!entry.isFolder) yield this.file(entry, path, isDeleted, isGone);
      else if (!seen.has(entry.cluster)) {
        const inside = this.folder(entry, isDeleted);
        if (!inside) continue;
        seen.add(entry.cluster);
        yield* this.walk(inside, path, isDeleted, seen);
      }
    }
  }

  /** The entries of a folder; null where a deleted one's are gone. */
  private folder({ cluster }: Entry, isDeleted: boolean): Uint8Array | null {
    if (!this.clusters.isCluster(cluster)) return null;
    if (!isDeleted) return this.folderBytes([...this.clusters.chain(cluster)]);
    if (!isFolderHead(this.clusters.read(cluster))) return null;
    const clusters = [cluster];
    // Its chain is gone: it goes on where the next cluster is free and looks like entries.
    for (
      let next = cluster + 1;
      this.clusters.isCluster(next) && !this.clusters.isUsed(next);
      next++
    ) {
      const bytes = this.clusters.read(next);
      if (isFolderHead(bytes) || !looksLikeEntries(bytes)) break;
      clusters.push(next);
    }
    return this.folderBytes(clusters);
  }

  private file(entry: Entry, names: string[], isDeleted: boolean, isGone: boolean): FoundFile {
    const { size, modifiedAt, createdAt, cluster } = entry;
    const common = { names, size, modifiedAt, createdAt };
    if (!isDeleted) return { ...common, data: this.clusters.chained(cluster, size), deleted: null };
    const place = this.placeOf(cluster, size);
    const how = isGone
      ? 'listed by a deleted folder'
      : 'its entry in the folder is marked as deleted';
    return { ...common, data: place.extents, deleted: { how, contents: place.contents } };
  }

  /** The upper half of a first cluster's number is lost with some systems: then it is the one near by that is free. */
  private placeOf(cluster: number, size: number): Place {
    return this.clusters.guessed(cluster, size);
  }
}

/** Of deleted files that claim the same bytes none can be sure of them. */
export function settled(deleted: FoundFile[]): FoundFile[] {
  const claims = deleted.flatMap((file) =>
    Array.isArray(file.data) ? file.data.map(({ start, length }) => ({ file, start, length })) : []
  );
  claims.sort((a, b) => a.start - b.start);
  let [end, holder] = [-1, null as FoundFile | null];
  for (const { file, start, length } of claims) {
    if (start < end && holder && holder !== file)
      for (const { deleted } of [holder, file])
        if (deleted?.contents === 'intact') deleted.contents = 'unsure';
    if (start + length > end) [end, holder] = [start + length, file];
  }
  return deleted;
}

interface Entry {
  name: string;
  /** The first letter of its name was written over. */
  isHeadless: boolean;
  isDeleted: boolean;
  isFolder: boolean;
  cluster: number;
  size: number;
  modifiedAt: number | null;
  createdAt: number | null;
}

/** Stands where nothing tells the first letter of a name. */
const LOST_LETTER = '_';
/** Letters behind the first that neighbours have in common where they are of one series. */
const COMMON = 3;

/** Files of one series begin alike: where all neighbours with the same next letters have one first letter, it is that of a deleted one. */
function withFirstLetters(entries: Entry[]): Entry[] {
  const firsts = new Map<string, Set<string>>();
  for (const { name, isHeadless } of entries) {
    if (isHeadless || name.length <= COMMON) continue;
    const series = name.slice(1, 1 + COMMON).toUpperCase();
    firsts.set(series, (firsts.get(series) ?? new Set()).add(name[0]!));
  }
  return entries.map((entry) => {
    const series = entry.name.slice(1, 1 + COMMON).toUpperCase();
    const known = entry.isHeadless ? firsts.get(series) : undefined;
    if (known?.size !== 1 || entry.name.length <= COMMON) return entry;
    return { ...entry, name: [...known][0]! + entry.name.slice(1) };
  });
}

/** Parts of a long name as they were met, the last part of it first. */
interface LongName {
  text: string;
  checksum: number;
}

/** The entries of a folder, but for its own and its parent's. */
function* entriesIn(bytes: Uint8Array): Generator<Entry> {
  let long: LongName | null = null;
  // What lies behind the end of the entries is of an earlier time.
  let isPast = false;
  for (let at = 0; at + ENTRY <= bytes.length; at += ENTRY) {
    const entry = bytes.subarray(at, at + ENTRY);
    if (entry[0] === 0) {
      isPast = true;
      long = null;
      continue;
    }
    if ((entry[11]! & 0x3f) === LONG_NAME) {
      long = withPart(long, entry);
      continue;
    }
    const known: LongName | null = long;
    long = null;
    if ((entry[11]! & VOLUME) !== 0 || entry[0] === 0x2e) continue;
    const read = entryOf(entry, known);
    if (read) yield isPast ? { ...read, isDeleted: true } : read;
  }
}

function withPart(long: LongName | null, entry: Uint8Array): LongName {
  const units: number[] = [];
  for (const [from, to] of [
    [1, 11],
    [14, 26],
    [28, 32]
  ] as const)
    for (let at = from; at < to; at += 2) units.push(u16le(entry, at));
  const end = units.findIndex((unit) => unit === 0 || unit === 0xffff);
  const text = String.fromCharCode(...(end < 0 ? units : units.slice(0, end)));
  const checksum = entry[13]!;
  const isFirst = entry[0] !== DELETED && (entry[0]! & 0x40) !== 0;
  const goesOn = long !== null && !isFirst && long.checksum === checksum;
  return { text: goesOn ? text + long!.text : text, checksum };
}

function entryOf(entry: Uint8Array, long: LongName | null): Entry | null {
  const isDeleted = entry[0] === DELETED;
  const isFolder = (entry[11]! & FOLDER) !== 0;
  const size = u32le(entry, 28);
  if (!isShortName(entry) || (entry[11]! & 0xc0) !== 0) return null;
  const modifiedAt = dosMoment(u16le(entry, 24), u16le(entry, 22));
  // What was deleted is believed only with a day that is one.
  if (isDeleted && modifiedAt === null && u16le(entry, 24) !== 0) return null;
  const name = nameOf(entry, long, isDeleted);
  return {
    name,
    isHeadless: isDeleted && name.startsWith(LOST_LETTER) && name !== long?.text,
    isDeleted,
    isFolder,
    cluster: (u16le(entry, 20) << 16) | u16le(entry, 26),
    size: isFolder ? 0 : size,
    modifiedAt,
    createdAt: dosMoment(u16le(entry, 16), u16le(entry, 14), entry[13])
  };
}

/** Signs that a short name may not have (section 6.1). */
const FORBIDDEN = new Set([...'"*+,/:;<=>?[\\]|'].map((char) => char.charCodeAt(0)));

function isShortName(entry: Uint8Array): boolean {
  for (let i = 0; i < 11; i++) {
    const byte = entry[i]!;
    if (i === 0 && (byte === DELETED || byte === 0x05)) continue;
    if (byte < 0x20 || FORBIDDEN.has(byte)) return false;
  }
  return true;
}

/** The long name where its checksum is that of the short one; the first sign of a deleted short name is lost. */
function nameOf(entry: Uint8Array, long: LongName | null, isDeleted: boolean): string {
  if (long && fitsChecksum(entry, long, isDeleted)) return long.text;
  const lower = entry[12]!;
  const part = (from: number, to: number, isLower: boolean): string => {
    const text = byteText(entry.subarray(from, to)).trimEnd();
    return isLower ? text.toLowerCase() : text;
  };
  let base = part(0, 8, (lower & 8) !== 0);
  if (isDeleted) base = `${LOST_LETTER}${base.slice(1)}`;
  else if (entry[0] === 0x05) base = `\u00e5${base.slice(1)}`;
  const ending = part(8, 11, (lower & 16) !== 0);
  return ending === '' ? base : `${base}.${ending}`;
}

function fitsChecksum(entry: Uint8Array, long: LongName, isDeleted: boolean): boolean {
  if (!isDeleted) return checksumOf(entry, entry[0]!) === long.checksum;
  // The sign that is lost is the one with which the checksum holds; a capital or digit makes it likely.
  for (let first = 0x21; first < 0x7f; first++)
    if (checksumOf(entry, first) === long.checksum) return true;
  for (let first = 0x80; first < 0x100; first++)
    if (checksumOf(entry, first) === long.checksum) return true;
  return false;
}

/** Section 7, "ChkSum". */
function checksumOf(entry: Uint8Array, first: number): number {
  let sum = first;
  for (let i = 1; i < 11; i++) sum = (((sum & 1) << 7) + (sum >> 1) + entry[i]!) & 0xff;
  return sum;
}

function labelIn(root: Uint8Array): string | null {
  for (let at = 0; at + ENTRY <= root.length && root[at] !== 0; at += ENTRY) {
    const isLabel = (root[at + 11]! & 0x3f) === VOLUME && root[at] !== DELETED;
    if (isLabel) return byteText(root.subarray(at, at + 11)).trim() || null;
  }
  return null;
}

/** A folder's first two entries are itself and its parent. */
function isFolderHead(bytes: Uint8Array): boolean {
  const name = byteText(bytes.subarray(0, 11));
  const parent = byteText(bytes.subarray(ENTRY, ENTRY + 11));
  return name === '.          ' && parent === '..         ';
}

function looksLikeEntries(bytes: Uint8Array): boolean {
  let good = 0;
  for (let at = 0; at + ENTRY <= bytes.length; at += ENTRY) {
    if (bytes[at] === 0) return good > 0;
    const entry = bytes.subarray(at, at + ENTRY);
    const isLong = (entry[11]! & 0x3f) === LONG_NAME && u16le(entry, 26) === 0;
    if (!isLong && !isShortName(entry)) return false;
    good++;
  }
  return good > 0;
}
