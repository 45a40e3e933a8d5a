// Runs the headless command, installing what is missing first.
import { spawnSync } from 'node:child_process';
import { ensureInstalled, root } from './lib/install.mjs';

ensureInstalled({ quiet: true });
// Paths are those of the caller's folder, wherever that is; the loader is this project's.
const run = spawnSync(
  process.execPath,
  ['--import', import.meta.resolve('tsx'), `${root}/cli/main.ts`, ...process.argv.slice(2)],
  { stdio: 'inherit', cwd: process.env.INIT_CWD ?? process.cwd() }
);
process.exitCode = run.status ?? 1;
