import { fileTypeFromBuffer } from 'file-type';
import type { ByteSource } from '../host';
import { baseName, PackageError, type ListedFile } from '../formats';
import type { Attachment } from '../records';
import type { Hasher } from './types';

/** What was learned of a file by reading it once. */
export interface FileDigest {
  sha256: string;
  bytes: number;
  mime: string | null;
}

/** Finds the files of a source that a store's attachments name. */
export class FileFinder {
  private readonly byName = new Map<string, ListedFile[]>();

  constructor(files: Iterable<ListedFile>) {
    for (const file of files) {
      const name = folded(baseName(file.path));
      const list = this.byName.get(name);
      if (list) list.push(file);
      else this.byName.set(name, [file]);
    }
  }

  has(name: string): boolean {
    return this.byName.has(folded(name));
  }

  /**
   * The file whose path ends most like the one named. A file that shares
   * nothing but its name counts only when it is the only one, or its size
   * agrees.
   */
  find(
    path: string | null,
    name: string | null,
    bytes: number | null,
    near: string
  ): ListedFile | null {
    for (const wanted of [path, name]) {
      const found = wanted ? this.best(wanted, bytes, near) : null;
      if (found) return found;
    }
    return null;
  }

  private best(wanted: string, bytes: number | null, near: string): ListedFile | null {
    const parts = partsOf(wanted);
    const files = this.byName.get(parts[parts.length - 1] ?? '') ?? [];
    let best: ListedFile | null = null;
    let most = 0;
    for (const file of files) {
      const shared = sharedTail(parts, partsOf(file.path));
      const sized = bytes !== null && bytes > 0 && file.size === bytes;
      const sure = shared > 1 || sized || files.length === 1;
      const score = sure ? shared * 10 + (sized ? 5 : 0) + closeness(file.path, near) : 0;
      if (score > most) [best, most] = [file, score];
    }
    return best;
  }
}

function folded(text: string): string {
  return text.normalize('NFC').toLowerCase();
}

function partsOf(path: string): string[] {
  return folded(path.replaceAll('\\', '/').replace(/^(file:\/\/|~\/)/, ''))
    .split('/')
    .filter((part) => part !== '');
}

function sharedTail(a: string[], b: string[]): number {
  let n = 0;
  while (n < a.length && n < b.length && a[a.length - 1 - n] === b[b.length - 1 - n]) n++;
  return n;
}

/** Up to one point for folders shared with the store itself. */
function closeness(path: string, near: string): number {
  const [a, b] = [partsOf(path), partsOf(near)];
  let n = 0;
  while (n < a.length && n < b.length && a[n] === b[n]) n++;
  return n / (n + 1);
}

const STEP = 1 << 20;

/** Hashes a file and tells its kind by content. */
export async function* digestFile(
  source: ByteSource,
  hasher: () => Promise<Hasher>
): AsyncGenerator<number, FileDigest> {
  const hash = await hasher();
  let head: Uint8Array = new Uint8Array(0);
  for (let at = 0; at < source.size; at += STEP) {
    const part = source.read(at, STEP);
    if (at === 0) head = part.slice(0, 4100);
    hash.update(part);
    yield part.length;
  }
  return { sha256: hash.digest(), bytes: source.size, mime: await mimeOf(head) };
}

/** The media type that the first bytes show; null when they show none. */
export async function mimeOf(head: Uint8Array): Promise<string | null> {
  if (head.length < 4) return null;
  // Filled bytes look like the beginning of a sound frame.
  if (head[0] === 0xff && head[1] === 0xff) return null;
  return ownMime(head) ?? (await fileTypeFromBuffer(head))?.mime ?? null;
}

const BINARY_LIST = [...'bplist0'].map((char) => char.charCodeAt(0));
/** Rollback journals begin with this (SQLite file format, section 3). */
const JOURNAL = [0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7];

/** Kinds that belong to this trade, and that no general list of kinds has. */
function ownMime(head: Uint8Array): string | null {
  const begins = (bytes: readonly number[]): boolean => bytes.every((byte, i) => head[i] === byte);
  if (begins(BINARY_LIST)) return 'application/x-plist';
  // Write-ahead logs, in either byte order of their checksums (section 4.1).
  if (begins([0x37, 0x7f, 0x06]) && (head[3]! & 0xfe) === 0x82) return 'application/x-sqlite3-wal';
  if (begins(JOURNAL)) return 'application/x-sqlite3-journal';
  const text = new TextDecoder().decode(head.subarray(0, 400));
  if (/^\ufeff?(?:<\?xml[^>]*>\s*)?(?:<!DOCTYPE plist|<plist\b)/i.test(text))
    return 'application/x-plist';
  return /^\ufeff?\s*BEGIN:VCARD\s/i.test(text) ? 'text/vcard' : null;
}

/** Opens a listed file to its end; null when it cannot be unpacked. */
export function openNow(file: ListedFile): ByteSource | null {
  try {
    const opening = file.open();
    for (;;) {
      const step = opening.next();
      if (step.done) return step.value;
    }
  } catch (error) {
    if (error instanceof PackageError) return null;
    throw error;
  }
}

/** What an attachment becomes when its file was found and read. */
export function resolved(
  attachment: Attachment,
  file: ListedFile,
  { sha256, bytes, mime }: FileDigest
): Attachment {
  return { ...attachment, path: file.path, sha256, bytes, mime: attachment.mime ?? mime };
}
