// Types, lint, format, import rules, unused code, two at a time; with --quick types, and lint and format of what changed. Prints what each says, and stops at the first that fails.
import { spawn } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { changedFiles } from './lib/changed.mjs';
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
      ...['depcruise', 'core', 'cli', 'src', 'demo', 'bench', '--output-type', 'err'],
      ...['--config', '.dependency-cruiser.folders.cjs']
    ]
  ],
  ['Unused code', ['knip', '--no-progress', '--exclude', 'types']]
];

/** Lint and format look at what changed alone; what the rules of imports and unused code say of the whole is left to the full run. */
function quickSteps() {
  const changed = changedFiles();
  const code = changed.filter((path) => /\.(ts|svelte|mjs)$/.test(path));
  const formed = changed.filter((path) => /\.(ts|svelte|mjs|md|json|css)$/.test(path));
  return [
    STEPS[1],
    STEPS[0],
    STEPS[2],
    ...(code.length > 0 ? [['Lint', ['eslint', ...code, '--max-warnings', '0']]] : []),
    ...(formed.length > 0
      ? [['Format', ['prettier', '--check', '--ignore-unknown', '--log-level', 'warn', ...formed]]]
      : [])
  ];
}

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

const waiting = process.argv.includes('--quick') ? quickSteps() : [...STEPS];
async function work() {
  for (let step = waiting.shift(); step; step = waiting.shift()) await check(step);
}
await Promise.all(Array.from({ length: AT_ONCE }, work));
