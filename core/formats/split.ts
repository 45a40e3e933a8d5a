import type { ByteSource } from '../host';
import { plainFile, type ListedFile } from './types';

/** The number that ends the name of a part of a larger file: `.001`, `.002` … */
const PART = /^(.+)\.(\d{3,5})$/;

/** Whether a name is that of the first part of a larger file. */
export function isFirstPart(path: string): boolean {
  const found = PART.exec(path);
  return found !== null && Number(found[2]) === 1;
}

/** The parts that follow the first one, as far as they are there. */
export function partsAfter(first: string, isThere: (path: string) => boolean): string[] {
  const [, base, digits] = PART.exec(first)!;
  const found: string[] = [];
  for (let n = 2; ; n++) {
    const path = `${base}.${String(n).padStart(digits!.length, '0')}`;
    if (!isThere(path)) return found;
    found.push(path);
  }
}

/** Parts of one file as that file. */
class JoinedSource implements ByteSource {
  readonly size: number;
  private readonly starts: number[] = [];

  constructor(
    readonly name: string,
    private readonly parts: readonly ByteSource[]
  ) {
    let size = 0;
    for (const part of parts) {
      this.starts.push(size);
      size += part.size;
    }
    this.size = size;
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset >= end) return new Uint8Array(0);
    const out = new Uint8Array(end - offset);
    let have = 0;
    for (let i = this.partAt(offset); have < out.length; i++) {
      const bytes = this.parts[i]!.read(offset + have - this.starts[i]!, out.length - have);
      if (bytes.length === 0) break;
      out.set(bytes, have);
      have += bytes.length;
    }
    return out.subarray(0, have);
  }

  private partAt(offset: number): number {
    const next = this.starts.findIndex((start) => start > offset);
    return (next < 0 ? this.starts.length : next) - 1;
  }
}

/** Puts the parts of images together: a file in parts stands in a listing as one, under the name without the number. */
export function joinParts(files: readonly ListedFile[]): ListedFile[] {
  const byPath = new Map(files.map((file) => [file.path, file]));
  const joined = new Map<ListedFile, ListedFile | null>();
  for (const file of files) {
    if (!isFirstPart(file.path)) continue;
    const later = partsAfter(file.path, (path) => byPath.has(path)).map((path) =>
      byPath.get(path)!
    );
    const whole = later.length > 0 ? wholeOf([file, ...later]) : null;
    if (!whole) continue;
    joined.set(file, whole);
    for (const part of later) joined.set(part, null);
  }
  if (joined.size === 0) return [...files];
  return files.flatMap((file) => (joined.has(file) ? (joined.get(file) ?? []) : file));
}

/** Null where they are no parts of one file: all but the last are of one size, and each can be read as it is. */
function wholeOf(parts: readonly ListedFile[]): ListedFile | null {
  const path = PART.exec(parts[0]!.path)![1]!;
  const sources: ByteSource[] = [];
  for (const part of parts) {
    const step = part.locked ? null : part.open().next();
    if (!step?.done || step.value.size === 0) return null;
    sources.push(step.value);
  }
  const { size } = sources[0]!;
  const isCut = sources.every(
    (part, i) => part.size === size || (i === sources.length - 1 && part.size < size)
  );
  if (!isCut) return null;
  const whole = plainFile(path, new JoinedSource(path, sources), parts[0]!.modifiedAt);
  whole.origin = parts[0]!.origin;
  return whole;
}
