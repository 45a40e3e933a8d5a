// An image of a medium: its partitions, their file systems, and the files in them, live and deleted.
import { ChunkedSource, sizeText, type ByteSource } from '../../host';
import { safePath } from '../paths';
import {
  emptyPackage,
  HEAD_BYTES,
  warning,
  type ListedFile,
  type OpenedPackage,
  type PackageFormat,
  type PackageStep
} from '../types';
import { EXFAT } from './exfat';
import { EXT } from './ext';
import { FAT } from './fat';
import type { FileSystem, FileSystemReader, FoundFile } from './filesystem';
import { NTFS } from './ntfs';
import { hasBootMark, hasPartitionTable, partitionsOf, type Partition } from './partitions';
import { claimedOf, RunsSource, UnclaimedSource, type Extent } from './runs';

/** Surest marks first: the boot sectors of others can be read as FAT's. */
const READERS: readonly FileSystemReader[] = [NTFS, EXFAT, EXT, FAT];

/** A volume of a medium, with its file system where one is read. */
interface Volume {
  partition: Partition;
  system: FileSystem | null;
}

interface Contents {
  scheme: 'GPT' | 'MBR' | 'none';
  damage: string | null;
  volumes: Volume[];
}

/** Bytes of a volume that tell its file system. */
const TELLING = 2048;

function systemAt(medium: ByteSource, start: number): FileSystem | null {
  return systemBy(medium, start, medium.read(start, TELLING));
}

function systemBy(medium: ByteSource, start: number, head: Uint8Array): FileSystem | null {
  for (const reader of READERS) {
    const system = reader.begins(head) ? reader.open(medium, start, head) : null;
    if (system) return system;
  }
  return null;
}

/** Where the head of a volume is damaged, a copy of it may not be. */
function systemIn(medium: ByteSource, { start, size }: Partition): FileSystem | null {
  const whole = systemAt(medium, start);
  if (whole) return whole;
  for (const reader of READERS)
    for (const at of reader.copies(size)) {
      if (at <= 0 || at >= size) continue;
      const head = medium.read(start + at, TELLING);
      const system = reader.begins(head) ? reader.open(medium, start, head) : null;
      if (system) return system;
    }
  return null;
}

/** A file system that begins with the medium is told by its own mark; else the tables say where some begin, or their marks. */
function contentsOf(medium: ByteSource): Contents {
  const all = { start: 0, size: medium.size, label: null };
  const alone = systemAt(medium, 0);
  if (alone) return { scheme: 'none', damage: null, volumes: [{ partition: all, system: alone }] };
  const { scheme, partitions, damage } = partitionsOf(medium);
  const volumes = partitions.map((partition) => ({
    partition,
    system: systemIn(medium, partition)
  }));
  if (volumes.some(({ system }) => system)) return { scheme, damage, volumes };
  const lost = volumesByMark(medium);
  return lost.length === 0
    ? { scheme, damage, volumes }
    : { scheme: 'none', damage: TABLE_LOST, volumes: lost };
}

const TABLE_LOST = 'Its partition table is lost; file systems were found by their own marks.';
const SECTOR = 512;
/** Up to here each sector is looked at; beyond, volumes begin at whole mebibytes. */
const CLOSELY = 64 << 20;
const STRIDE = 1 << 20;

/** Volumes that no table names, one behind the other. */
function volumesByMark(medium: ByteSource): Volume[] {
  const cached = new ChunkedSource(medium);
  const found: Volume[] = [];
  for (let at = 0; at + TELLING <= medium.size;) {
    const head = cached.read(at, TELLING);
    const system = mayTell(head) ? systemBy(medium, at, head) : null;
    if (system) {
      const size = Math.min(system.size, medium.size - at);
      found.push({ partition: { start: at, size, label: null }, system });
      at += Math.max(SECTOR, Math.ceil(size / SECTOR) * SECTOR);
    } else at = at < CLOSELY ? at + SECTOR : (Math.floor(at / STRIDE) + 1) * STRIDE;
  }
  return found;
}

/** A quick refusal of what has no mark of a file system. */
function mayTell(head: Uint8Array): boolean {
  return hasBootMark(head) || (head[1080] === 0x53 && head[1081] === 0xef);
}

/** Smaller files are no media whose table is lost. */
const LEAST_LOST = 1 << 20;

/** Whether a file begins like a medium that is read here. */
function isMedium(head: Uint8Array): boolean {
  if (head.length < TELLING) return false;
  const start = head.subarray(0, TELLING);
  return READERS.some(({ begins }) => begins(start)) || hasPartitionTable(head);
}

/** Called so where the bytes stand that no file claims. */
export const UNALLOCATED = 'unallocated space';
/** Code of the note that says what a volume is. */
export const FILE_SYSTEM = 'file-system';
/** Folder of what was deleted, beside what is not. */
const DELETED = 'deleted';
const STEPS = 2048;

function* openMedium(medium: ByteSource, prefix: string): Generator<PackageStep, OpenedPackage> {
  const result = emptyPackage('medium');
  const { scheme, damage, volumes } = contentsOf(medium);
  if (damage !== null)
    result.notes.push(warning('damaged', `${medium.name}: ${damage}`, medium.name));
  const claimed: Extent[] = [];
  let listed = 0;
  for (const [n, { system, partition }] of volumes.entries()) {
    if (!system) continue;
    const folder = volumes.length === 1 && scheme === 'none' ? '' : `partition ${n + 1}/`;
    const counts = { live: 0, deleted: 0 };
    try {
      for (const file of system.files()) {
        const read = listedFile(medium, prefix + folder, bounded(file, medium));
        if (read) result.files.push(read);
        counts[file.deleted ? 'deleted' : 'live']++;
        if (
          Array.isArray(file.data) &&
          file.deleted?.contents !== 'unsure' &&
          file.deleted?.contents !== 'overwritten'
        )
          claimed.push(...file.data);
        if (++listed % STEPS === 0) yield { stage: 'unpack', done: n, total: volumes.length };
      }
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      const text = `The files of partition ${n + 1} of ${medium.name} were listed up to damage.`;
      result.notes.push(warning('damaged', text, medium.name));
    }
    claimed.push(...system.own());
    const text = `${folder === '' ? medium.name : `Partition ${n + 1} of ${medium.name}`}: ${sentenceOf({ system, partition })}, ${listedText(counts)}.`;
    result.notes.push({ level: 'info', code: FILE_SYSTEM, text, path: medium.name });
  }
  result.files.push(unallocated(medium, prefix, claimed));
  return result;
}

/** Bytes that a file can have beyond those of its medium: it holds what was never written. */
const MOST_HOLES = 64 * 2 ** 30;

/** A file that cannot be as large as is said of it is listed, and has no bytes. */
function bounded(file: FoundFile, medium: ByteSource): FoundFile {
  const isPossible = file.size <= medium.size + MOST_HOLES;
  if (isPossible) return file;
  const deleted = {
    how: file.deleted?.how ?? 'listed with a size that cannot be',
    contents: 'unsure'
  } as const;
  return { ...file, size: 0, data: [], deleted };
}

function listedFile(medium: ByteSource, prefix: string, file: FoundFile): ListedFile | null {
  const safe = safePath(file.names.map((name) => name.replaceAll('/', '_')).join('/'));
  if (!safe) return null;
  const path = prefix + (file.deleted ? `${DELETED}/` : '') + safe.path;
  const { data, size, deleted } = file;
  const source = (): ByteSource => sourceOf(medium, path, data, size);
  return {
    path,
    origin: medium.name,
    verbatim: false,
    size,
    modifiedAt: file.modifiedAt,
    createdAt: file.createdAt,
    locked: false,
    ...(deleted ? { deleted } : {}),
    head: () => source().read(0, HEAD_BYTES),
    *open() {
      return source();
    }
  };
}

function sourceOf(
  medium: ByteSource,
  path: string,
  data: FoundFile['data'],
  size: number
): ByteSource {
  if (Array.isArray(data)) return new RunsSource(path, medium, data, size);
  return data instanceof Uint8Array ? new BytesSource(path, data) : new NamedSource(path, data);
}

/** Bytes that stood among other things. */
class BytesSource implements ByteSource {
  constructor(
    readonly name: string,
    private readonly bytes: Uint8Array
  ) {}
  get size(): number {
    return this.bytes.length;
  }
  read(offset: number, length: number): Uint8Array {
    return this.bytes.subarray(Math.max(0, offset), Math.max(0, offset + length));
  }
}

/** A source under another name. */
class NamedSource implements ByteSource {
  readonly size: number;
  constructor(
    readonly name: string,
    private readonly inner: ByteSource
  ) {
    this.size = inner.size;
  }
  read(offset: number, length: number): Uint8Array {
    return this.inner.read(offset, length);
  }
}

function unallocated(medium: ByteSource, prefix: string, claimed: readonly Extent[]): ListedFile {
  const path = `${prefix}${UNALLOCATED}`;
  const source = new UnclaimedSource(path, medium, claimedOf(claimed));
  return {
    path,
    origin: medium.name,
    verbatim: false,
    size: medium.size,
    modifiedAt: null,
    createdAt: null,
    locked: false,
    isUnallocated: true,
    // What stands at its beginning says nothing of what it is.
    head: () => new Uint8Array(HEAD_BYTES),
    *open() {
      return source;
    }
  };
}

function sentenceOf({ system, partition }: Volume): string {
  if (!system) return `${sizeText(partition.size)} without a file system that is read here`;
  const label = system.label ?? partition.label;
  const used = system.used === null ? '' : `, ${sizeText(system.used)} of them in use`;
  return `${system.title}${label ? ` “${label}”` : ''}, ${sizeText(system.size)}${used}`;
}

function listedText({ live, deleted }: { live: number; deleted: number }): string {
  const gone = deleted === 1 ? '1 deleted one that is' : `${deleted} deleted ones that are`;
  return `with ${live} ${live === 1 ? 'file' : 'files'} and ${gone} still listed`;
}

/** What an image is, in a sentence. */
function told(medium: ByteSource): string {
  const { scheme, volumes } = contentsOf(medium);
  const parts = volumes.map(sentenceOf);
  if (scheme === 'none') return `An image of a medium: ${parts.join('; ')}.`;
  const many = volumes.length === 1 ? 'one partition' : `${volumes.length} partitions`;
  return `An image of a medium with a ${scheme} partition table and ${many}: ${parts.join('; ')}.`;
}

export const MEDIUM: PackageFormat = {
  kind: 'medium',
  title: 'image of a medium',
  begins: isMedium,
  open: (source, prefix) => openMedium(source, prefix),
  tell: told,
  lies: (source) => source.size >= LEAST_LOST && volumesByMark(source).length > 0
};
