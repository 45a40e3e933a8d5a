import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { root, run } from './install.mjs';
import { filesBelow, newestOf } from './files.mjs';

const INPUTS = ['core', 'cli', 'bench', 'demo', 'package-lock.json', 'scripts/lib/bundle.mjs'];
const OUT = '.commands';

/** Glue of compiled code looks for its binary beside itself: it stays where it was installed. */
const AS_INSTALLED = [
  '@audio/decode-amr',
  '@audio/decode-opus',
  '@jsquash/avif',
  '@jsquash/jpeg',
  '@jsquash/webp',
  '@myriaddreamin/typst-ts-node-compiler',
  '@neslinesli93/qpdf-wasm',
  'libheif-js',
  'sql.js'
];

/** A command that runs the bundle before may still start threads from it. */
const STILL_RUNNING = 24 * 3600 * 1000;

function removeOld(made) {
  for (const name of readdirSync(join(root, OUT))) {
    const path = join(root, OUT, name);
    const isOld = Date.now() - statSync(path).mtimeMs > STILL_RUNNING;
    if (name.startsWith('shared-') && !made.includes(name) && isOld) rmSync(path);
  }
}

/**
 * Bundles the headless commands unless the last bundle is newer than their
 * sources, and returns the path of one. Starting from many TypeScript files
 * would take longer than many an examination.
 */
export function bundled(command) {
  const file = join(root, OUT, `${command}.js`);
  const isFresh = existsSync(file) && newestOf([file]) > newestOf(INPUTS.flatMap(filesBelow));
  if (!isFresh)
    run(process.execPath, [fileURLToPath(import.meta.url)], { stdio: ['ignore', 2, 2] });
  return file;
}

/** To be run in a process of its own, which takes its memory with it. */
async function bundle() {
  const { build } = await import('vite');
  // Another call may be running the old bundle, or making one too.
  const making = join(root, OUT, `making-${process.pid}`);
  await build({
    root,
    configFile: false,
    // The project's own builds on one that the application's build makes, and that may not be there yet.
    tsconfig: 'core/tsconfig.json',
    logLevel: 'error',
    build: {
      ssr: true,
      outDir: making,
      target: 'node20',
      rollupOptions: {
        input: {
          examine: join(root, 'cli/main.ts'),
          ombudsman: join(root, 'cli/program.ts'),
          // Threads start from files of their own, which are small.
          'hash-thread': join(root, 'cli/hash-thread.ts'),
          'help-thread': join(root, 'cli/help-thread.ts')
        },
        // Modules of ours do nothing by being loaded, so threads load what they use, not all that an index names.
        treeshake: { moduleSideEffects: (id) => !id.startsWith(join(root, 'core')) },
        output: {
          entryFileNames: '[name].js',
          chunkFileNames: 'shared-[name]-[hash].js',
          // Less to be read at each start; names stay, for they may be told.
          minify: { mangle: false, compress: false, codegen: { removeWhitespace: true } },
          format: 'es'
        }
      }
    },
    ssr: { noExternal: true, external: AS_INSTALLED }
  });
  mkdirSync(join(root, OUT), { recursive: true });
  // The entry that is looked for comes last, when everything that it needs is there.
  const made = readdirSync(making).sort((a) => (a === 'examine.js' ? 1 : -1));
  for (const name of made) renameSync(join(making, name), join(root, OUT, name));
  rmSync(making, { recursive: true });
  removeOld(made);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await bundle();
