// Runs the headless command, installing what is missing first.
import { pathToFileURL } from 'node:url';
import { setFlagsFromString } from 'node:v8';
import { bundled } from './lib/bundle.mjs';
import { ensureInstalled } from './lib/install.mjs';

// The collector works in the thread that it cleans up for (package.json): threads of its own would
// have to wait for cores that the helpers use, and that thread for them. It goes over the whole heap
// only when that has grown, not each time that a small one has doubled.
// An examination of seconds does many things for less than a second each: optimising all of them
// at once takes longer than it saves. Plain machine code from the start, and more patience for the rest.
setFlagsFromString('--always-sparkplug');
setFlagsFromString('--interrupt-budget=300000');

ensureInstalled({ quiet: true });
const command = bundled('examine');
// Paths are those of the caller's folder, wherever that is.
if (process.env.INIT_CWD) process.chdir(process.env.INIT_CWD);
// In this process: starting another one would take longer than many an examination.
await import(pathToFileURL(command).href);
