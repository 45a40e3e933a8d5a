import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
// Not from its index: every thread would load all formats.
import { AskedHelper, HostPool, type HelperTold } from '../core/examine/asked';
import { keyOf, type DiskPath } from './file-names';

/** How a file is opened again in another thread. */
export interface DiskHandle {
  path: DiskPath;
  name: string;
}

/** Starts a thread; in the bundle each entry is a file of its own. */
function start(entry: 'hash-thread' | 'help-thread', workerData?: DiskPath): Worker {
  const ending = import.meta.url.endsWith('.ts') ? 'ts' : 'js';
  return new Worker(new URL(`./${entry}.${ending}`, import.meta.url), { workerData });
}

/** SHA-256 of a file, worked out in a thread of its own. @throws when the file cannot be read. */
export function hashBeside(path: DiskPath): Promise<string> {
  const worker = start('hash-thread', path);
  return new Promise((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
    worker.once('exit', (code) => {
      if (code !== 0) reject(new Error(`hashing ${keyOf(path)} ended with ${code}`));
    });
  });
}

/** A thread below this one. */
class ThreadHelper extends AskedHelper<Worker> {
  protected started(): Worker {
    const worker = start('help-thread');
    worker.on('message', (told: HelperTold) => this.take(told));
    worker.on('error', (error) => this.die(error));
    worker.on('exit', (code) => this.die(new Error(`a helping thread ended with ${code}`)));
    return worker;
  }

  /** Starts the thread before it is asked anything; until {@link keep} it does not hold the process. */
  prepare(): void {
    this.thread ??= this.started();
    this.thread.unref();
  }

  keep(): void {
    this.thread?.ref();
  }

  end(): void {
    void this.thread?.terminate();
  }
}

let early: ThreadHelper | null = null;

/** Lets the first helper of this process start, where there is a core for it. */
export function startEarly(): void {
  if (availableParallelism() < 2) return;
  early = new ThreadHelper();
  early.prepare();
}

/** The one that was started early, once; then others. */
function nextHelper(): ThreadHelper {
  const helper = early ?? new ThreadHelper();
  early = null;
  helper.keep();
  return helper;
}

/** The threads that help passes of this process. */
export function threadPool(): HostPool {
  return new HostPool(availableParallelism(), nextHelper);
}
