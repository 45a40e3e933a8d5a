// Types, lint, format, import rules, unused code, two at a time. Prints what each says, and stops at the first that fails.
import { spawn } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { root, run, say } from './lib/install.mjs';
import { prepare } from './prepare.mjs';

const STEPS = [
  ['Types of core', ['tsc', '-p', 'core']],
  [
    'Types',
    ['svelte-check', '--tsconfig', './tsconfig.json', '--fail-on-warnings', '--output', 'human']
  ],
  ['Types of programs and tests', ['tsc', '-p', 'tsconfig.programs.json']],
  ['Lint', ['eslint', '.', '--max-warnings', '0']],
  ['Format', ['prettier', '--check', '--log-level', 'warn', '.']],
  [
    'Import rules',
    ['depcruise', 'core', 'cli', 'src', 'demo', 'bench', 'measure', '--output-type', 'err']
  ],
  [
    'Import rules of folders',
    [
      ...['depcruise', 'core', 'cli', 'src', '--output-type', 'err'],
      ...['--config', '.dependency-cruiser.folders.cjs']
    ]
  ],
  ['Unused code', ['knip', '--no-progress', '--exclude', 'types']]
];

prepare();
run('npx', ['--no-install', 'svelte-kit', 'sync']);

/** Each takes a processor and up to two gigabytes. */
const AT_ONCE = Math.min(2, availableParallelism());

/** Runs a step; what it prints is shown when it is over, so that two do not mix. */
function check([title, args]) {
  return new Promise((resolve) => {
    const said = [];
    const step = spawn('npx', ['--no-install', ...args], { cwd: root });
    for (const stream of [step.stdout, step.stderr]) stream.on('data', (bytes) => said.push(bytes));
    step.on('error', (error) => {
      say(`${title} could not be run: ${error.message}`);
      process.exit(1);
    });
    step.on('close', (code) => {
      say(`${title}${code === 0 ? '' : ' failed'}`);
      process.stderr.write(Buffer.concat(said));
      if (code !== 0) process.exit(1);
      resolve();
    });
  });
}

const waiting = [...STEPS];
async function work() {
  for (let step = waiting.shift(); step; step = waiting.shift()) await check(step);
}
await Promise.all(Array.from({ length: AT_ONCE }, work));
