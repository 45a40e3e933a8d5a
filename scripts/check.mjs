// Types, lint, format, import rules, unused code. Prints what fails and stops at the first.
import { run, say } from './lib/install.mjs';
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
for (const [title, args] of STEPS) {
  say(`${title} …`);
  run('npx', ['--no-install', ...args]);
}
