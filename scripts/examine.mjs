// Runs the headless command, installing what is missing first.
import { spawnSync } from 'node:child_process';
import { bundled } from './lib/bundle.mjs';
import { ensureInstalled } from './lib/install.mjs';

// Records are made and dropped by the million: a larger nursery keeps them from being moved.
const SPACE = ['--max-semi-space-size=16'];

ensureInstalled({ quiet: true });
// Paths are those of the caller's folder, wherever that is.
const run = spawnSync(
  process.execPath,
  [...SPACE, await bundled('examine'), ...process.argv.slice(2)],
  {
    stdio: 'inherit',
    cwd: process.env.INIT_CWD ?? process.cwd()
  }
);
process.exitCode = run.status ?? 1;
