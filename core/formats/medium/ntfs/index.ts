// NTFS: files by their records in the master file table, those that are not in use any more among them.
import { ChunkedSource, u16le, u32le, u64le, type ByteSource } from '../../../host';
import {
  DEEPEST,
  LOST,
  type Contents,
  type Deletion,
  type FileSystem,
  type FileSystemReader,
  type FoundFile
} from '../filesystem';
import { HOLE, joinedRuns, RunsSource, type Extent } from '../runs';
import { PackedSource } from './packed';
import {
  ATTRIBUTE_LIST,
  DATA,
  FILE_NAME,
  fileTime,
  INFORMATION,
  nameValueOf,
  recordOf,
  referenceOf,
  type Attribute,
  type MftRecord,
  type NameValue
} from './records';

const ROOT = 5;
const BITMAP = 6;
const VOLUME = 3;
const VOLUME_NAME = 0x60;
/** Records before this one are the file system's own. */
const FIRST_FILE = 24;
const MOST_RECORDS = 20_000_000;

interface Shape {
  cluster: number;
  record: number;
  size: number;
  table: number;
}

function shapeOf(boot: Uint8Array): Shape | null {
  if (boot.length < 512 || String.fromCharCode(...boot.subarray(3, 11)) !== 'NTFS    ') return null;
  const sector = u16le(boot, 11);
  const perCluster = boot[13]! <= 0x80 ? boot[13]! : 2 ** (256 - boot[13]!);
  const cluster = sector * perCluster;
  const stated = (boot[64]! << 24) >> 24;
  const record = stated < 0 ? 2 ** -stated : stated * cluster;
  const shape = {
    cluster,
    record,
    size: u64le(boot, 40) * sector,
    table: u64le(boot, 48) * cluster
  };
  const isSound =
    sector >= 256 &&
    sector <= 4096 &&
    cluster >= 256 &&
    cluster <= 1 << 21 &&
    record >= 256 &&
    record <= 1 << 16;
  return isSound ? shape : null;
}

export const NTFS: FileSystemReader = {
  begins: (head) => shapeOf(head) !== null,
  copies: (size) => [size - 512, size - 4096],
  open(medium, offset, head) {
    const shape = shapeOf(head);
    if (!shape) return null;
    const cached = new ChunkedSource(medium);
    const first = recordOf(cached.read(offset + shape.table, shape.record), 0);
    return first ? new Ntfs(cached, offset, shape, first) : null;
  }
};

/** What is known of a record when paths are put together. */
interface Known {
  name: NameValue;
  sequence: number;
  isUsed: boolean;
  isFolder: boolean;
}

class Ntfs implements FileSystem {
  readonly title = 'NTFS';
  readonly label: string | null;
  readonly size: number;
  private readonly table: ByteSource;
  private readonly count: number;
  private readonly bitmap: Uint8Array;
  private readonly known = new Map<number, Known>();

  constructor(
    private readonly medium: ByteSource,
    private readonly offset: number,
    private readonly shape: Shape,
    first: MftRecord
  ) {
    this.size = shape.size;
    // What the table's own list of attributes leads to lies in its beginning.
    const own = first.attributes.find(({ type, name }) => type === DATA && name === '');
    const start = own ? this.bytesRuns(own.runs) : [];
    this.table = new RunsSource('', medium, start, Math.min(own?.size ?? 0, medium.size));
    const whole = this.dataOf(first).find(({ name }) => name === '');
    if (whole && whole.runs.length > (own?.runs.length ?? 0))
      this.table = new RunsSource('', medium, this.bytesRuns(whole.runs), whole.size);
    this.count = Math.min(MOST_RECORDS, Math.floor(this.table.size / shape.record));
    this.bitmap = this.bytesOf(BITMAP);
    const label = this.record(VOLUME)?.attributes.find(({ type }) => type === VOLUME_NAME)?.value;
    this.label = (label && new TextDecoder('utf-16le').decode(label)) || null;
  }

  get used(): number {
    let count = 0;
    for (const byte of this.bitmap) for (let bits = byte; bits !== 0; bits &= bits - 1) count++;
    return Math.min(this.size, count * this.shape.cluster);
  }

  *own(): Iterable<Extent> {
    yield { start: this.offset, length: this.shape.cluster };
    for (let number = 0; number < FIRST_FILE; number++) {
      const record = this.record(number);
      for (const { type, runs } of record?.attributes ?? [])
        // The list of bad clusters claims the whole volume.
        if (type !== DATA || number !== 8) yield* this.bytesRuns(runs);
    }
    for (let number = FIRST_FILE; number < this.count; number++) {
      const record = this.known.get(number)?.isFolder ? this.record(number) : null;
      if (record?.isUsed) for (const { runs } of record.attributes) yield* this.bytesRuns(runs);
    }
  }

  private record(number: number): MftRecord | null {
    return recordOf(this.table.read(number * this.shape.record, this.shape.record), number);
  }

  private bytesOf(number: number): Uint8Array {
    const record = this.record(number);
    const data = record && this.dataOf(record).find(({ name }) => name === '');
    if (!data) return new Uint8Array(0);
    if (data.value) return data.value;
    const size = Math.min(data.size, this.medium.size);
    return new RunsSource('', this.medium, this.bytesRuns(data.runs), size).read(0, size);
  }

  /** Runs of clusters as bytes of the medium. */
  private bytesRuns(runs: readonly Extent[]): Extent[] {
    const { cluster } = this.shape;
    return runs.map(({ start, length }) => ({
      start: start === HOLE ? HOLE : this.offset + start * cluster,
      length: length * cluster
    }));
  }

  private isUsed(cluster: number): boolean {
    return (((this.bitmap[cluster >> 3] ?? 0) >> (cluster & 7)) & 1) === 1;
  }

  *files(): Generator<FoundFile> {
    for (let number = 0; number < this.count; number++) this.learn(number);
    const deleted: number[] = [];
    for (const [number, { isUsed, isFolder }] of this.known) {
      if (isFolder || number < FIRST_FILE) continue;
      if (isUsed) yield* this.filesOf(number);
      else deleted.push(number);
    }
    for (const number of deleted) yield* this.filesOf(number);
  }

  private learn(number: number): void {
    const record = this.record(number);
    if (!record || record.base !== 0) return;
    const { sequence, isUsed, isFolder } = record;
    const name = this.nameOf(record);
    if (name) this.known.set(number, { name, sequence, isUsed, isFolder });
  }

  /** The long name of several; one may stand in a record that continues this one. */
  private nameOf(record: MftRecord): NameValue | null {
    const names = this.attributesOf(record).flatMap((attribute) =>
      attribute.type === FILE_NAME ? (nameValueOf(attribute) ?? []) : []
    );
    return names.find(({ isShort }) => !isShort) ?? names[0] ?? null;
  }

  /** The attributes of a record, those of its continuations among them. */
  private attributesOf(record: MftRecord): Attribute[] {
    const list = record.attributes.find(({ type }) => type === ATTRIBUTE_LIST);
    if (!list) return record.attributes;
    const size = Math.min(list.size, 1 << 20);
    const bytes =
      list.value ?? new RunsSource('', this.medium, this.bytesRuns(list.runs), size).read(0, size);
    const all = [...record.attributes];
    const seen = new Set<number>([record.number]);
    for (let at = 0; at + 26 <= bytes.length;) {
      const length = u16le(bytes, at + 4);
      const { number } = referenceOf(bytes, at + 16);
      if (u32le(bytes, at) === 0 || length < 26) break;
      at += length;
      if (seen.has(number) || seen.size > 10_000) continue;
      seen.add(number);
      const further = this.table ? this.record(number) : null;
      if (further?.base === record.number) all.push(...further.attributes);
    }
    return all;
  }

  /** The streams of a record, each with all of its runs. */
  private dataOf(record: MftRecord): Attribute[] {
    const streams = new Map<string, Attribute>();
    const parts = this.attributesOf(record).filter(({ type }) => type === DATA);
    parts.sort((a, b) => a.firstCluster - b.firstCluster);
    for (const part of parts) {
      const known = streams.get(part.name);
      if (known) known.runs = [...known.runs, ...part.runs];
      else streams.set(part.name, { ...part });
    }
    return [...streams.values()];
  }

  private *filesOf(number: number): Generator<FoundFile> {
    const record = this.record(number);
    if (!record) return;
    const { names, isLost } = this.pathOf(number);
    const times = record.attributes.find(({ type }) => type === INFORMATION)?.value;
    const createdAt = times ? fileTime(times, 0) : null;
    const modifiedAt = times ? fileTime(times, 8) : null;
    for (const stream of this.dataOf(record)) {
      const data = this.placeOf(stream);
      if (!data) continue;
      const path =
        stream.name === '' ? names : [...names.slice(0, -1), `${names.at(-1)}:${stream.name}`];
      const deleted = record.isUsed ? null : this.deletionOf(stream, isLost);
      yield { names: path, size: stream.size, data, modifiedAt, createdAt, deleted };
    }
  }

  private deletionOf(stream: Attribute, isLost: boolean): Deletion {
    const how = 'its record in the file table is not in use any more';
    const contents = this.stateOf(stream);
    return { how: isLost ? `${how}, nor is that of its folder` : how, contents };
  }

  private stateOf({ value, runs }: Attribute): Contents {
    if (value) return 'intact';
    const clusters = this.bitmap.length * 8;
    for (const { start, length } of runs) {
      if (start === HOLE) continue;
      if (start + length > clusters) return 'overwritten';
      for (let i = 0; i < length; i++) if (this.isUsed(start + i)) return 'overwritten';
    }
    return 'intact';
  }

  private placeOf(stream: Attribute): FoundFile['data'] | null {
    const { value, size, written } = stream;
    if (value) return value;
    const runs = this.bytesRuns(stream.runs);
    if (stream.isEncrypted || size === Infinity) return null;
    if (stream.isCompressed && stream.unit > 0)
      return new PackedSource('', this.medium, runs, stream.unit * this.shape.cluster, size);
    return joinedRuns(cutAt(runs, size, Math.min(written, size)));
  }

  /** Names from the root down. A folder whose record was given to another file is lost. */
  private pathOf(number: number): { names: string[]; isLost: boolean } {
    const names: string[] = [];
    const seen = new Set<number>();
    let at = number;
    while (at !== ROOT) {
      const known = this.known.get(at);
      if (!known || seen.has(at) || names.length > DEEPEST)
        return { names: [LOST, ...names], isLost: true };
      seen.add(at);
      names.unshift(known.name.name);
      const { parent } = known.name;
      const folder = this.known.get(parent.number);
      // Deleting a record counts its number up.
      const given = folder && (folder.isUsed ? folder.sequence : folder.sequence - 1);
      const isSame =
        folder?.isFolder && (parent.sequence === given || parent.sequence === folder.sequence);
      if (parent.number !== ROOT && !isSame)
        return { names: [LOST, `folder ${parent.number}`, ...names], isLost: true };
      at = parent.number;
    }
    return { names, isLost: false };
  }
}

/** What was never written reads as zeros. */
function* cutAt(runs: readonly Extent[], size: number, written: number): Generator<Extent> {
  let at = 0;
  for (const { start, length } of runs) {
    const end = Math.min(at + length, size);
    const stored = Math.max(0, Math.min(end, written) - at);
    if (stored > 0) yield { start, length: stored };
    if (end - at > stored) yield { start: HOLE, length: end - at - stored };
    at += length;
    if (at >= size) return;
  }
}
