import type { ByteSource } from '../bytes';
import { drain, openTree, plainFile, type Opening } from '../packages';
import type { SourceInput } from './types';

/** Opens one file of a source by the path that a proof or a listing names; null when it is not there or stays locked. */
export function openFile(input: SourceInput, path: string, opening: Opening): ByteSource | null {
  const direct = input.files.find((file) => file.name === path);
  if (direct) return direct;
  const files = input.files.map((file) => plainFile(file.name, file));
  const tree = drain(openTree(input.name, files, opening));
  const found = tree.files.find(({ file }) => file.path === path);
  return found ? drain(found.file.open()) : null;
}
