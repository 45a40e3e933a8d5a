import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './install.mjs';
import { filesBelow, newestOf } from './files.mjs';

const INPUTS = ['core', 'cli', 'package-lock.json'];
const OUT = '.commands';

/**
 * Bundles the headless commands unless the last bundle is newer than their
 * sources, and returns the path of one. Starting from many TypeScript files
 * would take longer than many an examination.
 */
export async function bundled(command) {
  const file = join(root, OUT, `${command}.js`);
  if (existsSync(file) && newestOf([file]) > newestOf(INPUTS.flatMap(filesBelow))) return file;
  const { build } = await import('vite');
  // Another call may be running the old bundle, or making one too.
  const making = join(root, OUT, `making-${process.pid}`);
  await build({
    root,
    configFile: false,
    logLevel: 'error',
    build: {
      ssr: true,
      outDir: making,
      target: 'node20',
      rollupOptions: {
        input: { examine: join(root, 'cli/main.ts') },
        output: { entryFileNames: '[name].js', format: 'es' }
      }
    },
    ssr: { noExternal: true }
  });
  mkdirSync(join(root, OUT), { recursive: true });
  renameSync(join(making, `${command}.js`), file);
  rmSync(making, { recursive: true });
  return file;
}
