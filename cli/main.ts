import { existsSync, statSync } from 'node:fs';
import { startEarly } from './threads';

/** Databases from this size on get helping threads at once (core/examine/store.ts, which is not loaded yet). */
const LARGE = 64 * 1024 * 1024;

const args = process.argv.slice(2);
// A thread takes as long to start as the rest of this command takes to load: both at once.
if (args.some((path) => existsSync(path) && statSync(path).size >= LARGE)) startEarly();
const { examine } = await import('./examine');
process.exitCode = await examine(args);
