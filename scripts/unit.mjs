// Unit and property tests with Node's own runner; arguments narrow them to files.
import { existsSync, readdirSync, statSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { ensurePrograms, root, run } from './lib/install.mjs';
import { prepare } from './prepare.mjs';

function testsBelow(folder) {
  return readdirSync(join(root, folder)).flatMap((name) => {
    const path = `${folder}/${name}`;
    if (statSync(join(root, path)).isDirectory()) return testsBelow(path);
    return name.endsWith('.test.ts') ? [path] : [];
  });
}

prepare();
// The paths that the tests name stand in a file that is made.
if (!existsSync(join(root, '.svelte-kit/tsconfig.json')))
  run('npx', ['--no-install', 'svelte-kit', 'sync']);
// The command-line SQLite writes the logs and journals that its WebAssembly build cannot; the others read what is produced.
ensurePrograms({ sqlite3: 'sqlite3', pdftotext: 'poppler-utils', qpdf: 'qpdf' });
const named = process.argv.slice(2);
const files =
  named.length > 0 ? named : ['core', 'cli', 'bench', 'demo', 'src'].flatMap(testsBelow);
// The runner leaves one processor free by itself; nothing else needs it here.
const many = `--test-concurrency=${availableParallelism()}`;
run(process.execPath, ['--import', 'tsx', '--test', many, '--test-reporter', 'spec', ...files]);
