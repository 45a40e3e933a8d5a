import type { ByteSource } from '$core/host';
import { SourceFiles } from '$core/examine';
import type { SourceRecord } from '../../storage/schema';
import { BlobScratch } from '../host/blob-scratch';
import { BlobSource } from '../host/blob-source';
import { inputOf } from './input';
import type { Shelf } from './shelf';

/** Keys of one source that are kept: the newest are tried first. A list of passwords can be long. */
const MOST_KEYS = 10_000;

/** Single files of a case's sources, at any nesting, with the keys that were given for them. */
export class OpenedSources {
  /** Sources whose packages were opened to show what is inside. */
  private readonly opened = new Map<string, Promise<SourceFiles>>();
  /** Passwords and keys; kept only as long as the worker lives. */
  private readonly keys = new Map<string, string[]>();

  constructor(private readonly shelf: () => Shelf) {}

  keysOf(sourceId: string): string[] {
    return this.keys.get(sourceId) ?? [];
  }

  /** Whether there is a key among them that was not known. */
  giveKeys(sourceId: string, keys: readonly string[]): boolean {
    const known = this.keysOf(sourceId);
    if (keys.every((key, i) => known[i] === key)) return false;
    this.forget(sourceId);
    this.keys.set(sourceId, [...new Set([...keys, ...known])].slice(0, MOST_KEYS));
    return true;
  }

  /** Opens a source anew when it is next asked for. */
  forget(sourceId: string): void {
    this.opened.delete(sourceId);
  }

  async file(sourceId: string, path: string): Promise<ByteSource | null> {
    const source = await this.shelf().get(sourceId);
    return source ? this.fileOf(source, path) : null;
  }

  /** Null when its bytes are not in this browser, or its key is not known any more. */
  async fileOf(source: SourceRecord, path: string): Promise<ByteSource | null> {
    if (source.isAway) return null;
    const plain = source.files.find((f) => f.path === path);
    if (plain) {
      const [blob] = await this.shelf().filesOf({ ...source, files: [plain] });
      return blob ? new BlobSource(blob, path) : null;
    }
    // Many may ask at once: the packages are opened for the first alone.
    let files = this.opened.get(source.id);
    if (!files) {
      files = this.open(source);
      files.catch(() => this.opened.delete(source.id));
      this.opened.set(source.id, files);
    }
    return (await files).open(path);
  }

  private async open(source: SourceRecord): Promise<SourceFiles> {
    const opening = { keys: this.keysOf(source.id), scratch: () => new BlobScratch() };
    const { pass, source: found } = source;
    const isKnown = pass.state === 'done' && found !== null;
    const packages = isKnown ? new Set(found.inside.packages.map(({ path }) => path)) : null;
    return SourceFiles.of(await inputOf(this.shelf(), source), opening, packages);
  }
}
