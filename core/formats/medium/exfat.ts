// exFAT, by its specification (revision 1.00), with deleted entry sets.
import { ChunkedSource, u16le, u32le, u64le, type ByteSource } from '../../host';
import { Clusters, clustersWithin, dosMoment, settled, type Place } from './clusters';
import {
  DEEPEST,
  MOST_FILES,
  type FileSystem,
  type FileSystemReader,
  type FoundFile
} from './filesystem';
import type { Extent } from './runs';

const ENTRY = 32;
/** Types of entries (section 6.2); without the upper bit they are not in use any more. */
const IN_USE = 0x80;
const BITMAP = 0x01;
const LABEL = 0x03;
const FILE = 0x05;
const STREAM = 0x40;
const NAME = 0x41;
const FOLDER = 0x10;
const IN_ONE_PIECE = 2;

interface Shape {
  table: number;
  tableBytes: number;
  heap: number;
  count: number;
  root: number;
  cluster: number;
  size: number;
}

/** Section 3.1. */
function shapeOf(boot: Uint8Array): Shape | null {
  if (boot.length < 512 || String.fromCharCode(...boot.subarray(3, 11)) !== 'EXFAT   ') return null;
  const [sectorShift, clusterShift] = [boot[108]!, boot[109]!];
  if (sectorShift < 9 || sectorShift > 12 || sectorShift + clusterShift > 25) return null;
  const sector = 1 << sectorShift;
  const shape = {
    table: u32le(boot, 80) * sector,
    tableBytes: u32le(boot, 84) * sector,
    heap: u32le(boot, 88) * sector,
    count: u32le(boot, 92),
    root: u32le(boot, 96),
    cluster: sector << clusterShift,
    size: u64le(boot, 72) * sector
  };
  return shape.count > 0 && shape.heap > shape.table ? shape : null;
}

export const EXFAT: FileSystemReader = {
  begins: (head) => shapeOf(head) !== null,
  copies: () => [12 * 512, 12 * 4096],
  open(medium, offset, head) {
    const shape = shapeOf(head);
    if (!shape) return null;
    const count = clustersWithin(medium, offset + shape.heap, shape.cluster, shape.count);
    return new Exfat(new ChunkedSource(medium), offset, { ...shape, count });
  }
};

class Exfat implements FileSystem {
  readonly title = 'exFAT';
  readonly label: string | null = null;
  readonly size: number;
  private readonly clusters: Clusters;
  private readonly bitmap: Uint8Array;
  private listed = 0;

  constructor(
    medium: ByteSource,
    private readonly offset: number,
    private readonly shape: Shape
  ) {
    this.size = shape.size;
    this.clusters = new Clusters({
      medium,
      table: offset + shape.table,
      heap: offset + shape.heap,
      bytes: shape.cluster,
      count: shape.count,
      bits: 32
    });
    let bitmap: Uint8Array | null = null;
    const root = this.clusters.folder([...this.clusters.chain(shape.root)]);
    for (let at = 0; at + ENTRY <= root.length; at += ENTRY) {
      const entry = root.subarray(at, at + ENTRY);
      if (entry[0] === (IN_USE | BITMAP) && !bitmap) {
        const wanted = Math.min(u64le(entry, 24), Math.ceil(shape.count / 8));
        const clusters = [
          ...this.clusters.chain(u32le(entry, 20), Math.ceil(wanted / shape.cluster))
        ];
        bitmap = this.clusters.folder(clusters).subarray(0, wanted);
      }
      if (entry[0] === (IN_USE | LABEL))
        this.label = textOf(entry, 2, Math.min(11, entry[1]!)) || null;
    }
    this.bitmap = bitmap ?? new Uint8Array(0);
    this.clusters.isUsed = (cluster) =>
      (((this.bitmap[(cluster - 2) >> 3] ?? 0) >> ((cluster - 2) & 7)) & 1) === 1;
  }

  get used(): number {
    return this.clusters.usedCount() * this.shape.cluster;
  }

  *own(): Iterable<Extent> {
    yield { start: this.offset, length: this.shape.heap };
    yield* this.clusters.folders;
  }

  *files(): Generator<FoundFile> {
    const deleted: FoundFile[] = [];
    const root = this.clusters.folder([...this.clusters.chain(this.shape.root)]);
    for (const file of this.walk(root, [], false, new Set([this.shape.root])))
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
    for (const entry of setsIn(bytes)) {
      if (++this.listed > MOST_FILES) return;
      const isDeleted = isGone || entry.isDeleted;
      const path = [...names, entry.name];
      if (!entry.isFolder) {
        yield this.file(entry, path, isDeleted, isGone);
        continue;
      }
      if (seen.has(entry.cluster) || !this.clusters.isCluster(entry.cluster)) continue;
      if (isDeleted && this.clusters.isUsed(entry.cluster)) continue;
      seen.add(entry.cluster);
      const { extents } = this.placeOf(entry, isDeleted);
      const clusters = extents.flatMap(({ start, length }) => this.clustersAt(start, length));
      yield* this.walk(this.clusters.folder(clusters), path, isDeleted, seen);
    }
  }

  private clustersAt(start: number, length: number): number[] {
    const first = Math.round((start - this.clusters.at(2)) / this.shape.cluster) + 2;
    return Array.from({ length: Math.ceil(length / this.shape.cluster) }, (_, i) => first + i);
  }

  private file(entry: Entry, names: string[], isDeleted: boolean, isGone: boolean): FoundFile {
    const { size, modifiedAt, createdAt } = entry;
    const { extents, contents } = this.placeOf(entry, isDeleted);
    const common = { names, size, modifiedAt, createdAt, data: extents };
    if (!isDeleted) return { ...common, deleted: null };
    const how = isGone
      ? 'listed by a deleted folder'
      : 'its entries in the folder are marked as not in use';
    return { ...common, deleted: { how, contents } };
  }

  /** A file in one piece says so itself; the chain of another stays when it is deleted. */
  private placeOf({ cluster, size, isWhole }: Entry, isDeleted: boolean): Place {
    if (isWhole) {
      const extents = this.clusters.inOrder(cluster, size);
      return { extents, contents: isDeleted ? this.stateOf(extents) : 'intact' };
    }
    const extents = this.clusters.chained(cluster, size);
    if (!isDeleted) return { extents, contents: 'intact' };
    const reached = extents.reduce((sum, { length }) => sum + length, 0);
    return reached >= size
      ? { extents, contents: this.stateOf(extents) }
      : this.clusters.guessed(cluster, size);
  }

  private stateOf(extents: readonly Extent[]): Place['contents'] {
    const isTaken = extents.some(({ start, length }) =>
      this.clustersAt(start, length).some((cluster) => this.clusters.isUsed(cluster))
    );
    return isTaken ? 'overwritten' : 'intact';
  }
}

interface Entry {
  name: string;
  isDeleted: boolean;
  isFolder: boolean;
  cluster: number;
  size: number;
  isWhole: boolean;
  modifiedAt: number | null;
  createdAt: number | null;
}

/** The sets of entries in a folder: one of the file, one of its stream, those of its name (section 7.4). */
function* setsIn(bytes: Uint8Array): Generator<Entry> {
  for (let at = 0; at + 3 * ENTRY <= bytes.length; at += ENTRY) {
    const type = bytes[at]!;
    if ((type & ~IN_USE) !== FILE) continue;
    const used = type & IN_USE;
    const stream = bytes.subarray(at + ENTRY, at + 2 * ENTRY);
    if (stream[0] !== (used | STREAM)) continue;
    const further = bytes[at + 1]!;
    const length = stream[3]!;
    if (further < 2 || further > 18 || length === 0) continue;
    let name = '';
    for (let n = 2; n <= further && at + (n + 1) * ENTRY <= bytes.length; n++) {
      const part = bytes.subarray(at + n * ENTRY, at + (n + 1) * ENTRY);
      if (part[0] !== (used | NAME)) break;
      name += textOf(part, 2, 15);
    }
    if (name.length < length) continue;
    yield {
      name: name.slice(0, length),
      isDeleted: used === 0,
      isFolder: (u16le(bytes, at + 4) & FOLDER) !== 0,
      cluster: u32le(stream, 20),
      size: u64le(stream, 24),
      isWhole: (stream[1]! & IN_ONE_PIECE) !== 0,
      modifiedAt: momentOf(bytes, at + 12, bytes[at + 21]!, bytes[at + 23]!),
      createdAt: momentOf(bytes, at + 8, bytes[at + 20]!, bytes[at + 22]!)
    };
  }
}

/** A moment with its distance from UTC in quarters of an hour, where that is told (section 7.4.10). */
function momentOf(bytes: Uint8Array, at: number, hundredths: number, zone: number): number | null {
  const moment = dosMoment(u16le(bytes, at + 2), u16le(bytes, at), hundredths);
  if (moment === null || (zone & 0x80) === 0) return moment;
  const quarters = ((zone & 0x7f) << 25) >> 25;
  return moment - quarters * 15 * 60_000;
}

function textOf(entry: Uint8Array, at: number, units: number): string {
  let text = '';
  for (let i = 0; i < units; i++) text += String.fromCharCode(u16le(entry, at + 2 * i));
  return text;
}
