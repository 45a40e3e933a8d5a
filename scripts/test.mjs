// Everything that must hold: types, lint, unit tests, and the real interface in a browser. With --quick types, lint and unit tests of what changed.
import { ensureBuilt } from './lib/build.mjs';
import { ensurePrograms, run } from './lib/install.mjs';
import { prepare } from './prepare.mjs';

prepare();
ensurePrograms({
  sqlite3: 'sqlite3',
  chromium: 'chromium',
  pdftotext: 'poppler-utils',
  qpdf: 'qpdf'
});
if (process.argv.includes('--quick')) {
  run(process.execPath, ['scripts/check.mjs', '--quick']);
  run(process.execPath, ['scripts/unit.mjs', '--quick']);
} else {
  run(process.execPath, ['scripts/check.mjs']);
  run(process.execPath, ['scripts/unit.mjs']);
  ensureBuilt();
  run('npx', ['--no-install', 'playwright', 'test']);
}
