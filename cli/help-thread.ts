import { parentPort } from 'node:worker_threads';
import { toldOf } from '../core/examine/asked';
import { HelperThread, type HelperTask } from '../core/examine/helper';
import { FileSource } from './file-source';
import { DiskSource, type ScratchHandle } from './scratch';
import type { DiskHandle } from './threads';

/** Answers the tasks of a pass until the thread is ended. */
const thread = new HelperThread((handle) => {
  const file = handle as DiskHandle | ScratchHandle;
  if ('descriptor' in file) return new DiskSource(file.name, file.descriptor, file.size);
  return new FileSource(file.path, file.name);
});
parentPort!.on('message', (task: HelperTask) => {
  const { told, transfer } = toldOf(() => thread.answer(task));
  parentPort!.postMessage(told, transfer);
});
