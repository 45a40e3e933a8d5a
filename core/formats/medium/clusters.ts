// Clusters of a volume, chained by a table: what the two families of file systems for cards have in common.
import { u16le, u32le, type ByteSource } from '../../host';
import type { Contents, FoundFile } from './filesystem';
import { joinedRuns, type Extent } from './runs';

/** Bits of an entry of the table. */
export type EntryBits = 12 | 16 | 32;

export interface ClusterPlan {
  medium: ByteSource;
  /** Offset of the table and of the first cluster, which has number 2, in the medium. */
  table: number;
  heap: number;
  /** Bytes of a cluster. */
  bytes: number;
  /** How many clusters there are. */
  count: number;
  bits: EntryBits;
}

/** What was read of a file's place. */
export interface Place {
  extents: Extent[];
  contents: Contents;
}

/** Bytes of one folder: beyond the entries that the specifications allow it is a circle. */
const MOST_FOLDER_BYTES = 1 << 28;

/** The clusters of a volume, and the table that chains them. */
export class Clusters {
  readonly bytes: number;
  readonly count: number;
  /** Where folders lie that were read. */
  readonly folders: Extent[] = [];
  /** Clusters of live files, where another structure than the table says so. */
  isUsed: (cluster: number) => boolean;

  constructor(private readonly plan: ClusterPlan) {
    this.bytes = plan.bytes;
    this.count = plan.count;
    this.isUsed = (cluster) => this.entry(cluster) !== 0;
  }

  isCluster(cluster: number): boolean {
    return cluster >= 2 && cluster < this.count + 2;
  }

  /** Offset of a cluster in the medium. */
  at(cluster: number): number {
    return this.plan.heap + (cluster - 2) * this.bytes;
  }

  read(cluster: number): Uint8Array {
    return this.plan.medium.read(this.at(cluster), this.bytes);
  }

  /** The bytes of a folder in so many clusters, which are the file system's own from then on. */
  folder(clusters: readonly number[]): Uint8Array {
    const most = Math.max(1, Math.floor(MOST_FOLDER_BYTES / this.bytes));
    const kept = clusters.slice(0, most);
    const bytes = new Uint8Array(kept.length * this.bytes);
    for (const [i, cluster] of kept.entries()) {
      bytes.set(this.read(cluster), i * this.bytes);
      this.folders.push({ start: this.at(cluster), length: this.bytes });
    }
    return bytes;
  }

  /** What the table says of a cluster: the next one of its chain, 0 where it is free. */
  entry(cluster: number): number {
    const { medium, table, bits } = this.plan;
    const at = table + Math.floor((cluster * bits) / 8);
    const bytes = medium.read(at, 4);
    if (bytes.length < (bits === 32 ? 4 : 2)) return 0;
    if (bits === 32) return u32le(bytes, 0) & 0x0fff_ffff;
    const pair = u16le(bytes, 0);
    if (bits === 16) return pair;
    return cluster & 1 ? pair >> 4 : pair & 0xfff;
  }

  /** The clusters of a chain, up to its end, a circle or damage. */
  *chain(first: number, most = Infinity): Generator<number> {
    const seen = new Set<number>();
    for (let at = first; this.isCluster(at) && !seen.has(at) && seen.size < most;) {
      seen.add(at);
      yield at;
      at = this.entry(at);
    }
  }

  /** Where a live file lies. */
  chained(first: number, size: number): Extent[] {
    return this.runs(this.chain(first, Math.ceil(size / this.bytes)), size);
  }

  /** Where a file lies that has its clusters one behind the other. */
  inOrder(first: number, size: number): Extent[] {
    const length = Math.min(size, Math.max(0, (this.count + 2 - first) * this.bytes));
    return this.isCluster(first) ? [{ start: this.at(first), length }] : [];
  }

  runs(clusters: Iterable<number>, size: number): Extent[] {
    const out: Extent[] = [];
    let left = size;
    for (const cluster of clusters) {
      out.push({ start: this.at(cluster), length: Math.min(this.bytes, left) });
      left -= this.bytes;
    }
    return joinedRuns(out);
  }

  /**
   * Where a deleted file lay whose chain is gone: from its first cluster on,
   * over what is free. It was in one piece most likely; what stands in the way
   * was there before, or came later.
   */
  guessed(first: number, size: number): Place {
    if (size === 0) return { extents: [], contents: 'intact' };
    if (!this.isCluster(first)) return { extents: [], contents: 'overwritten' };
    const wanted = Math.ceil(size / this.bytes);
    if (this.isUsed(first)) return { extents: this.inOrder(first, size), contents: 'overwritten' };
    const clusters: number[] = [];
    let isInterrupted = false;
    for (let at = first; this.isCluster(at) && clusters.length < wanted; at++) {
      if (this.isUsed(at)) isInterrupted = true;
      else clusters.push(at);
    }
    const isWhole = clusters.length === wanted;
    const contents = !isWhole ? 'overwritten' : isInterrupted ? 'unsure' : 'intact';
    return { extents: this.runs(clusters, size), contents };
  }

  /** Clusters in use, counted by the table. */
  usedCount(): number {
    let used = 0;
    for (let cluster = 2; cluster < this.count + 2; cluster++) if (this.isUsed(cluster)) used++;
    return used;
  }
}

/** How many of so many clusters lie within a medium, the last one perhaps in part. */
export function clustersWithin(
  medium: ByteSource,
  heap: number,
  bytes: number,
  count: number
): number {
  return Math.max(0, Math.min(count, Math.ceil((medium.size - heap) / bytes)));
}

/** A date and a time in the words of the old system (FAT specification, section 7): two seconds apart, without a zone; read as UTC. */
export function dosMoment(date: number, time: number, hundredths = 0): number | null {
  const [year, month, day] = [1980 + (date >> 9), (date >> 5) & 15, date & 31];
  if (month < 1 || month > 12 || day < 1) return null;
  const [hour, minute, second] = [time >> 11, (time >> 5) & 63, (time & 31) * 2];
  if (hour > 23 || minute > 59) return null;
  return Date.UTC(year, month - 1, day, hour, minute, second) + hundredths * 10;
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
