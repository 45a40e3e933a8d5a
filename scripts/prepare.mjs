// Makes what the application needs and the repository does not hold: packages, demo evidence.
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ensureInstalled, hashOf, root, run, say, stamp } from './lib/install.mjs';

export function prepare() {
  ensureInstalled();
  prepareEvidence();
}

function prepareEvidence() {
  const sources = ['demo', 'bench'].flatMap((folder) =>
    readdirSync(join(root, folder), { recursive: true })
      .filter((name) => /(?<!\.test)\.ts$/.test(name) || /^media.made./.test(name))
      .sort()
      .map((name) => `${folder}/${name}`)
  );
  const made = stamp('evidence', hashOf(sources));
  if (made.fresh && existsSync(join(root, 'static/demo/case.json'))) return;
  say('Making the demo evidence …');
  run(process.execPath, ['--import', 'tsx', 'demo/make.ts']);
  made.done();
}

if (process.argv[1]?.endsWith('prepare.mjs')) prepare();
