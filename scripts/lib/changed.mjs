// What changed since the last commit (or in it, where nothing did since), and the unit tests nearest to that.
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import { root } from './install.mjs';

function git(...args) {
  return execFileSync('git', args, { cwd: root, encoding: 'utf8' }).split('\n').filter(Boolean);
}

/** Paths of files that changed and are still there. */
export function changedFiles() {
  const since = [
    ...git('diff', '--name-only', '--diff-filter=d', 'HEAD'),
    ...git('ls-files', '--others', '--exclude-standard')
  ];
  const files = since.length > 0 ? since : git('diff', '--name-only', '--diff-filter=d', 'HEAD~1');
  return [...new Set(files)].filter((path) => existsSync(join(root, path)));
}

/** Tests beside the changed files, and those that name one of them or its folder in an import. */
export function nearestTests(changed, tests) {
  const modules = changed.filter((path) => /\.(ts|mjs)$/.test(path));
  const folders = new Set(modules.map((path) => dirname(path)));
  const bare = new Set([...modules.map((path) => path.replace(/\.ts$/, '')), ...folders]);
  return tests.filter(
    (test) =>
      modules.includes(test) ||
      folders.has(dirname(test)) ||
      importsOf(test).some((path) => bare.has(path))
  );
}

function importsOf(file) {
  const text = readFileSync(join(root, file), 'utf8');
  return [...text.matchAll(/from '(\.[^']*)'/g)].map(([, path]) =>
    normalize(join(dirname(file), path))
      .replace(/\/$/, '')
      .replace(/\.ts$/, '')
  );
}
