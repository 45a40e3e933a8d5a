// Runs the headless command, installing what is missing first.
import { pathToFileURL } from 'node:url';
import { bundled } from './lib/bundle.mjs';
import { ensureInstalled } from './lib/install.mjs';

ensureInstalled({ quiet: true });
const command = bundled('examine');
// Paths are those of the caller's folder, wherever that is.
if (process.env.INIT_CWD) process.chdir(process.env.INIT_CWD);
// In this process: starting another one would take longer than many an examination.
await import(pathToFileURL(command).href);
