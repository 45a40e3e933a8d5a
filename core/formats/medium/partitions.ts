// Which volumes a medium is divided into: by the tables that say so, or by the marks of file systems.
import { u16le, u32le, u64le, type ByteSource } from '../../host';

/** A part of a medium, in bytes. */
export interface Partition {
  start: number;
  size: number;
  /** As its table calls it; null where it has no name. */
  label: string | null;
}

export interface PartitionTable {
  /** How the medium is divided. */
  scheme: 'GPT' | 'MBR' | 'none';
  partitions: Partition[];
  /** What is wrong with the table, in a sentence; null where nothing is. */
  damage: string | null;
}

const SECTORS = [512, 4096] as const;
const ENTRIES_AT = 446;
const ENTRY = 16;
/** Types of partitions that hold further ones. */
const EXTENDED = new Set([0x05, 0x0f, 0x85]);
const PROTECTIVE = 0xee;
/** Logical partitions beyond this are a circle. */
const MOST_LOGICAL = 128;
const MOST_ENTRIES = 1024;
/** How the header of a table of GUIDs begins. */
const GUID_MARK = 0x20494645;

/** Reads the tables of a medium (UEFI specification 2.10, chapter 5, and the master boot record before it). */
export function partitionsOf(medium: ByteSource): PartitionTable {
  for (const sector of SECTORS) {
    const table = guidTable(medium, sector);
    if (table) return table;
  }
  const first = medium.read(0, 512);
  const entries = bootEntries(first);
  if (!entries || entries.length === 0) return { scheme: 'none', partitions: [], damage: null };
  const sector = sectorOf(medium, entries);
  const partitions: Partition[] = [];
  for (const { type, start, count } of entries) {
    if (EXTENDED.has(type)) partitions.push(...logicalOf(medium, start, sector));
    else if (type !== PROTECTIVE) add(partitions, medium, start * sector, count * sector, null);
  }
  return { scheme: partitions.length > 0 ? 'MBR' : 'none', partitions, damage: null };
}

/** Whether the first bytes of a file are those of a disk with a table of partitions; a file system's own may look alike. */
export function hasPartitionTable(head: Uint8Array): boolean {
  const isGuid = SECTORS.some(
    (sector) => head.length >= sector + 4 && u32le(head, sector) === GUID_MARK
  );
  return isGuid || (bootEntries(head)?.length ?? 0) > 0;
}

interface BootEntry {
  type: number;
  /** In sectors. */
  start: number;
  count: number;
}

/** The entries in use; null where the sector holds no table: a flag that is none, or a partition without a beginning. */
function bootEntries(first: Uint8Array, isLogical = false): BootEntry[] | null {
  if (first.length < 512 || first[510] !== 0x55 || first[511] !== 0xaa) return null;
  const used: BootEntry[] = [];
  for (let at = ENTRIES_AT; at < ENTRIES_AT + 4 * ENTRY; at += ENTRY) {
    const type = first[at + 4]!;
    const [start, count] = [u32le(first, at + 8), u32le(first, at + 12)];
    if (first[at] !== 0 && first[at] !== 0x80) return null;
    if (type === 0 && count === 0) continue;
    // The link to the first table of a chain has no distance.
    if (type === 0 || count === 0 || (start === 0 && !isLogical)) return null;
    used.push({ type, start, count });
  }
  return used;
}

/** Numbers count sectors, whose size nothing says: it is the one with which they lead to a file system. */
function sectorOf(medium: ByteSource, entries: readonly BootEntry[]): number {
  const fits = (sector: number): boolean =>
    entries.some(({ start }) => {
      const head = medium.read(start * sector, 2048);
      return head.length === 2048 && head.some((byte) => byte !== 0);
    });
  const isLarge = !fits(512) && fits(4096);
  return isLarge ? 4096 : 512;
}

/** The chain of logical partitions: each table names one, and the table of the next. */
function logicalOf(medium: ByteSource, base: number, sector: number): Partition[] {
  const found: Partition[] = [];
  const seen = new Set<number>();
  let at = base;
  while (!seen.has(at) && seen.size < MOST_LOGICAL) {
    seen.add(at);
    const entries = bootEntries(medium.read(at * sector, 512), true);
    if (!entries) break;
    let next: number | null = null;
    for (const { type, start, count } of entries) {
      if (EXTENDED.has(type)) next = base + start;
      else add(found, medium, (at + start) * sector, count * sector, null);
    }
    if (next === null) break;
    at = next;
  }
  return found;
}

/** What lies past the medium's end is not there; a partition that was cut off by it is as long as it is. */
function add(
  to: Partition[],
  medium: ByteSource,
  start: number,
  size: number,
  label: string | null
): void {
  if (start <= 0 || start >= medium.size || size <= 0) return;
  const known = to.some((other) => other.start === start);
  if (!known) to.push({ start, size: Math.min(size, medium.size - start), label });
}

const utf16 = new TextDecoder('utf-16le');

/** The table of GUIDs: its header in the second sector, a copy in the last one. */
function guidTable(medium: ByteSource, sector: number): PartitionTable | null {
  const last = Math.floor(medium.size / sector) - 1;
  const first = guidHeader(medium, sector, 1);
  const header = first ?? guidHeader(medium, sector, last);
  if (!header) return null;
  const partitions: Partition[] = [];
  for (let n = 0; n < header.count; n++) {
    const entry = medium.read(header.entries + n * header.entrySize, 128);
    if (entry.length < 128) break;
    if (entry.subarray(0, 16).every((byte) => byte === 0)) continue;
    const [from, to] = [u64le(entry, 32), u64le(entry, 40)];
    const label = utf16.decode(entry.subarray(56, 128)).replace(/\0.*$/s, '');
    add(partitions, medium, from * sector, (to - from + 1) * sector, label || null);
  }
  const damage = first
    ? null
    : 'The first copy of its partition table is damaged; the one at its end was read.';
  return { scheme: 'GPT', partitions, damage };
}

interface GuidHeader {
  /** Offset of the entries in the medium. */
  entries: number;
  count: number;
  entrySize: number;
}

function guidHeader(medium: ByteSource, sector: number, at: number): GuidHeader | null {
  if (at < 1) return null;
  const header = medium.read(at * sector, 92);
  if (header.length < 92) return null;
  if (u32le(header, 0) !== GUID_MARK || u32le(header, 4) !== 0x54524150) return null;
  const [entries, count, entrySize] = [
    u64le(header, 72) * sector,
    u32le(header, 80),
    u32le(header, 84)
  ];
  const isSound =
    u64le(header, 24) === at && entrySize >= 128 && entrySize <= 4096 && count <= MOST_ENTRIES;
  return isSound ? { entries, count, entrySize } : null;
}

/** Whether bytes are those of a volume whose boot sector ends with the mark of one. */
export function hasBootMark(first: Uint8Array): boolean {
  return first.length >= 512 && u16le(first, 510) === 0xaa55;
}
