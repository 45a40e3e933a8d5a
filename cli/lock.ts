import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { UsageError } from './usage-error';

const held = new Set<string>();

/**
 * Keeps other runs of the program from a place while this one writes to it.
 * The lock is a file that names the process; one whose process has ended is
 * taken over.
 * @throws UsageError where another run holds it
 */
export function lock(path: string, what: string): () => void {
  mkdirSync(dirname(path), { recursive: true });
  take(path, what);
  if (held.size === 0) process.on('exit', releaseAll);
  held.add(path);
  return () => {
    held.delete(path);
    rmSync(path, { force: true });
  };
}

function take(path: string, what: string): void {
  try {
    writeFileSync(path, String(process.pid), { flag: 'wx' });
  } catch (error) {
    if (!(error instanceof Error && 'code' in error && error.code === 'EEXIST')) throw error;
    const owner = Number(readFileSync(path, 'utf8'));
    if (isRunning(owner)) throw new UsageError(`${what} by another run (process ${owner}).`);
    rmSync(path, { force: true });
    take(path, what);
  }
}

/** A signal of number 0 reaches a process without being felt. */
function isRunning(pid: number): boolean {
  if (!Number.isInteger(pid) || pid <= 0) return false;
  if (pid === process.pid) return held.size > 0;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    if (error instanceof Error && 'code' in error) return error.code === 'EPERM';
    throw error;
  }
}

function releaseAll(): void {
  for (const path of held) rmSync(path, { force: true });
}
