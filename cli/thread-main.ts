import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import { toldOf } from '../core/pass/asked';
import { HelperThread, type HelperTask } from '../core/pass/helper';
import { FileSource } from './file-source';
import type { DiskHandle, ThreadJob } from './threads';

/** Reads a file once and tells its SHA-256. */
function hash(path: string, port: MessagePort): void {
  const hash = createHash('sha256');
  createReadStream(path, { highWaterMark: 1 << 20 })
    .on('data', (chunk) => hash.update(chunk))
    .on('end', () => port.postMessage(hash.digest('hex')))
    .on('error', (error) => {
      throw error;
    });
}

/** Answers the tasks of a pass until the thread is ended. */
function help(port: MessagePort): void {
  const thread = new HelperThread((handle) => {
    const { path, name } = handle as DiskHandle;
    return new FileSource(path, name);
  });
  port.on('message', (task: HelperTask) => {
    const { told, transfer } = toldOf(() => thread.answer(task));
    port.postMessage(told, transfer);
  });
}

const job = workerData as ThreadJob;
if (!parentPort) throw new Error('this is no program of its own');
if (job.job === 'hash') hash(job.path, parentPort);
else help(parentPort);
