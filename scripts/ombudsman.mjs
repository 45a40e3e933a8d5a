// Runs the program, installing what is missing first.
import { pathToFileURL } from 'node:url';
import { bundled } from './lib/bundle.mjs';
import { ensureInstalled } from './lib/install.mjs';

ensureInstalled({ quiet: true });
// An examination has settings of its own for the engine.
const isExamine = process.argv[2] === 'examine';
if (isExamine) {
  process.argv.splice(2, 1);
  await import('./examine.mjs');
} else {
  const command = bundled('ombudsman');
  // Paths are those of the caller's folder, wherever that is.
  if (process.env.INIT_CWD) process.chdir(process.env.INIT_CWD);
  await import(pathToFileURL(command).href);
}
