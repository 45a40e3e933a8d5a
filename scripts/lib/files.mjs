import { readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { root } from './install.mjs';

/** Files below a path of the project, as paths relative to its root, in a fixed order. */
export function filesBelow(path) {
  if (!statSync(join(root, path)).isDirectory()) return [path];
  return readdirSync(join(root, path))
    .sort()
    .flatMap((name) => filesBelow(`${path}/${name}`));
}

/** When the latest of some files was changed, in milliseconds since 1970. */
export function newestOf(paths) {
  return Math.max(...paths.map((path) => statSync(resolve(root, path)).mtimeMs));
}
