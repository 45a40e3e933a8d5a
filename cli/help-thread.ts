import { parentPort } from 'node:worker_threads';
import { toldOf } from '../core/pass/asked';
import { HelperThread, type HelperTask } from '../core/pass/helper';
import { FileSource } from './file-source';
import type { DiskHandle } from './threads';

/** Answers the tasks of a pass until the thread is ended. */
const thread = new HelperThread((handle) => {
  const { path, name } = handle as DiskHandle;
  return new FileSource(path, name);
});
parentPort!.on('message', (task: HelperTask) => {
  const { told, transfer } = toldOf(() => thread.answer(task));
  parentPort!.postMessage(told, transfer);
});
