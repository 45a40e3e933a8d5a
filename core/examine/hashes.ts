import type { ListedFile } from '../formats';
import { listOfFiles, type Source, type SourcePart } from '../records';
import type { Pace } from './pace';
import type { Progress } from './progress';
import type { InputFile, PassRequest, ProgressEvent } from './types';

const HASH_STEP = 1 << 20;

/** What kept a file from being hashed. */
export interface HashFailure {
  type: 'failure';
  error: unknown;
  path: string;
}

/** The checksums of the files that make up a source. */
export class SourceHashes {
  /** Hashes that are worked out beside the pass. */
  private readonly beside: { path: string; settled: Promise<void> }[] = [];
  private byPath: Map<string, SourcePart> | null = null;

  constructor(
    private readonly source: Source,
    private readonly hasher: PassRequest['hasher'],
    private readonly pace: Pace,
    private readonly progress: Progress
  ) {}

  /** Adds the files as parts of the source, each with its hash, or the promise of one. */
  async *hash(files: readonly InputFile[]): AsyncGenerator<ProgressEvent | HashFailure> {
    const total = files.reduce((sum, file) => sum + file.size, 0);
    let hashed = 0;
    for (const file of files) {
      const part = { path: file.name, bytes: file.size, sha256: file.sha256 ?? '' };
      this.source.parts.push(part);
      if (file.sha256 !== undefined) continue;
      const beside = file.digest?.();
      if (beside) {
        this.wait(part, beside);
        continue;
      }
      yield* this.hashPart(file, part, hashed, total);
      hashed += file.size;
    }
  }

  private async *hashPart(
    file: InputFile,
    part: SourcePart,
    before: number,
    total: number
  ): ReturnType<SourceHashes['hash']> {
    try {
      const hasher = await this.hasher();
      for (let at = 0; at < file.size; at += HASH_STEP) {
        hasher.update(file.read(at, HASH_STEP));
        if (this.pace.due) await this.pace.rest();
        if (this.pace.mayReport()) yield this.progress.event('hash', before + at, total);
      }
      part.sha256 = hasher.digest();
    } catch (error) {
      yield { type: 'failure', error, path: file.name };
    }
  }

  private wait(part: SourcePart, beside: Promise<string>): void {
    const settled = beside.then((sha256) => void (part.sha256 = sha256));
    // A failure is met where the hash is waited for.
    settled.catch(() => undefined);
    this.beside.push({ path: part.path, settled });
  }

  /** Waits for the hashes that are worked out beside the pass; returns what failed. */
  async settled(): Promise<HashFailure[]> {
    const outcomes = await Promise.allSettled(this.beside.map(({ settled }) => settled));
    return outcomes.flatMap((outcome, i) =>
      outcome.status === 'rejected'
        ? [
            {
              type: 'failure' as const,
              error: outcome.reason as unknown,
              path: this.beside[i]!.path
            }
          ]
        : []
    );
  }

  /**
   * One file gives its own hash; several give that of their list. Empty where
   * not all of the source's files were hashed: a part of them is no source.
   */
  async joined(files: readonly InputFile[]): Promise<string> {
    const { parts } = this.source;
    if (parts.length < files.length) return '';
    if (parts.length === 1) return parts[0]!.sha256;
    const list = listOfFiles(parts);
    if (list === null) return '';
    const hasher = await this.hasher();
    hasher.update(new TextEncoder().encode(list));
    return hasher.digest();
  }

  /** The hash of a file that lies in the source as it is; null when it is not known. */
  of({ verbatim, origin }: ListedFile): string | null {
    if (!verbatim) return null;
    this.byPath ??= new Map(this.source.parts.map((part) => [part.path, part]));
    return this.byPath.get(origin)?.sha256 || null;
  }
}
