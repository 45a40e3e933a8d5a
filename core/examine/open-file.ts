import type { ByteSource } from '../host';
import {
  drain,
  drainAsync,
  listSource,
  openListed,
  PackageError,
  plainFile,
  type ListedFile,
  type Opening
} from '../formats';
import { carvedPlace, carvedSource } from './file-list';
import type { SourceInput } from './types';

/** The files of a source at any nesting, for showing and saving single ones. */
export class SourceFiles {
  private constructor(private readonly byPath: ReadonlyMap<string, ListedFile>) {}

  /** @param packages paths of its packages, where they are known: then no other file is looked into. */
  static async of(
    input: SourceInput,
    opening: Opening,
    packages: ReadonlySet<string> | null = null
  ): Promise<SourceFiles> {
    const files = input.files.map((file) => plainFile(file.name, file));
    const listing = await drainAsync(listSource(input.name, files, opening));
    const skips = (path: string): boolean => packages !== null && !packages.has(path);
    const tree = await drainAsync(openListed(listing, opening, skips));
    return new SourceFiles(new Map(tree.files.map(({ file }) => [file.path, file])));
  }

  /** Null when the file is not there, or stays locked. */
  open(path: string): ByteSource | null {
    const file = this.byPath.get(path);
    if (!file) return this.openCarved(path);
    if (file.locked) return null;
    try {
      return drain(file.open());
    } catch (error) {
      if (error instanceof PackageError) return null;
      throw error;
    }
  }

  private openCarved(path: string): ByteSource | null {
    const place = carvedPlace(path);
    const medium = place && this.byPath.has(place.medium) ? this.open(place.medium) : null;
    return place && medium && carvedSource(path, medium, place.offset);
  }
}
