import { createSHA256, type IHasher } from 'hash-wasm';
import type { HashedFile } from '../../storage/evidence';
import { BlobSource } from '../host/blob-source';
import type { NamedBlob } from '../api/protocol';

const STEP = 1 << 22;
const REPORT_EVERY = 100;
/** Files up to this size are read whole, so many at a time: opening each takes longer than reading it. */
const SMALL = 1 << 20;
const AT_A_TIME = 48;

/** Hashes files in their order; `report` hears now and then how much of all bytes and files is done. */
export async function hashed(
  files: readonly NamedBlob[],
  report: (fraction: number) => void
): Promise<HashedFile[]> {
  const hasher = await createSHA256();
  const progress = new Progress(files, report);
  const out: HashedFile[] = [];
  for (let at = 0; at < files.length;) {
    const small = smallFrom(files, at);
    if (small.length === 0) {
      out.push(await hashLarge(hasher, files[at]!, progress));
      at++;
      continue;
    }
    const contents = await Promise.all(small.map(({ blob }) => blob.arrayBuffer()));
    small.forEach((file, i) => {
      const bytes = new Uint8Array(contents[i]!);
      hasher.init();
      out.push(withSum(file, hasher.update(bytes).digest('hex')));
      progress.add(bytes.length, 1);
    });
    at += small.length;
  }
  return out;
}

function smallFrom(files: readonly NamedBlob[], from: number): NamedBlob[] {
  let to = from;
  while (to < files.length && to - from < AT_A_TIME && files[to]!.blob.size <= SMALL) to++;
  return files.slice(from, to);
}

async function hashLarge(
  hasher: IHasher,
  file: NamedBlob,
  progress: Progress
): Promise<HashedFile> {
  const source = new BlobSource(file.blob, '');
  hasher.init();
  let rest = Date.now() + REPORT_EVERY;
  for (let at = 0; at < source.size; at += STEP) {
    const part = source.read(at, STEP);
    hasher.update(part);
    progress.add(part.length, 0);
    if (Date.now() < rest) continue;
    await new Promise((resolve) => setTimeout(resolve));
    rest = Date.now() + REPORT_EVERY;
  }
  progress.add(0, 1);
  return withSum(file, hasher.digest('hex'));
}

function withSum({ path, blob }: NamedBlob, sha256: string): HashedFile {
  const modifiedAt = blob instanceof File ? blob.lastModified : null;
  return { path, bytes: blob.size, sha256, modifiedAt, blob };
}

/** A file counts as some bytes more than it has, for opening it takes as long as reading those. */
const OPENING = 1 << 16;

class Progress {
  private done = 0;
  private readonly total: number;
  private next = 0;

  constructor(
    files: readonly NamedBlob[],
    private readonly report: (fraction: number) => void
  ) {
    this.total = files.reduce((sum, { blob }) => sum + blob.size + OPENING, 0);
  }

  add(bytes: number, files: number): void {
    this.done += bytes + files * OPENING;
    if (Date.now() < this.next) return;
    this.next = Date.now() + REPORT_EVERY;
    this.report(this.done / Math.max(1, this.total));
  }
}
