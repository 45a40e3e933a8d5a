// FAT12, FAT16 and FAT32, by the file system's specification of 2000 (version 1.03), with deleted entries.
import { ChunkedSource, u16le, u32le, type ByteSource } from '../../../host';
import { Clusters, clustersWithin, settled, type EntryBits } from '../clusters';
import {
  DEEPEST,
  MOST_FILES,
  type FileSystem,
  type FileSystemReader,
  type FoundFile
} from '../filesystem';
import {
  entriesIn,
  isFolderHead,
  labelIn,
  looksLikeEntries,
  withFirstLetters,
  type Entry
} from './entries';
import { hasBootMark } from '../partitions';
import type { Extent } from '../runs';

const ENTRY = 32;

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
    yield* this.clusters.folders;
  }

  private root(): Uint8Array {
    const { root, rootBytes, rootCluster, bits } = this.shape;
    if (bits !== 32) return this.medium.read(this.offset + root, rootBytes);
    return this.clusters.folder([...this.clusters.chain(rootCluster)]);
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
    if (!isDeleted) return this.clusters.folder([...this.clusters.chain(cluster)]);
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
    return this.clusters.folder(clusters);
  }

  private file(entry: Entry, names: string[], isDeleted: boolean, isGone: boolean): FoundFile {
    const { size, modifiedAt, createdAt, cluster } = entry;
    const common = { names, size, modifiedAt, createdAt };
    if (!isDeleted) return { ...common, data: this.clusters.chained(cluster, size), deleted: null };
    const place = this.clusters.guessed(cluster, size);
    const how = isGone
      ? 'listed by a deleted folder'
      : 'its entry in the folder is marked as deleted';
    return { ...common, data: place.extents, deleted: { how, contents: place.contents } };
  }
}
