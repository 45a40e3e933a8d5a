import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { filesBelow } from './files.mjs';
import { hashOf, root, run, say, stamp } from './install.mjs';

const INPUTS = [
  'src',
  'core',
  'bench',
  'demo',
  'static',
  'svelte.config.js',
  'vite.config.ts',
  'package-lock.json'
];

/** Builds unless the last build was made from the same files. */
export function ensureBuilt() {
  const inputs = INPUTS.flatMap(filesBelow).filter((file) => !file.endsWith('.test.ts'));
  const built = stamp('built', hashOf(inputs));
  if (built.fresh && existsSync(join(root, 'build/index.js'))) return;
  say('Building the application …');
  run('npx', ['--no-install', 'vite', 'build', '--logLevel', 'warn']);
  built.done();
}
