// Unit and property tests with Node's own runner; arguments narrow them to files, --quick to those nearest to what changed.
import { existsSync, readdirSync, statSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { changedFiles, nearestTests } from './lib/changed.mjs';
import { ensurePrograms, root, run, say } from './lib/install.mjs';
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
// The command-line SQLite writes the logs and journals that its WebAssembly build cannot; the others read what is produced, and write media.
ensurePrograms({
  sqlite3: 'sqlite3',
  pdftotext: 'poppler-utils',
  qpdf: 'qpdf',
  'mkfs.fat': 'dosfstools',
  mcopy: 'mtools',
  debugfs: 'e2fsprogs'
});
const named = process.argv.slice(2).filter((word) => word !== '--quick');
const all = ['core', 'cli', 'bench', 'demo', 'src'].flatMap(testsBelow);
const isQuick = process.argv.includes('--quick');
const files = named.length > 0 ? named : isQuick ? nearestTests(changedFiles(), all) : all;
if (isQuick) say(`${files.length} of ${all.length} files of tests are near to what changed.`);
if (files.length === 0) process.exit(0);
// The runner leaves one processor free by itself; nothing else needs it here.
const many = `--test-concurrency=${availableParallelism()}`;
const test = (given, options = []) => {
  if (given.length === 0) return;
  const runner = ['--test', many, '--test-reporter', 'spec'];
  run(process.execPath, [...options, '--import', 'tsx', ...runner, ...given]);
};
const isComponent = (path) => path.endsWith('.component.test.ts');
test(files.filter((path) => !isComponent(path)));
// Components get what browsers get of each package, and a document.
test(files.filter(isComponent), [
  ...['--conditions=browser', '--conditions=svelte'],
  ...['--import', './scripts/lib/components.mjs']
]);
