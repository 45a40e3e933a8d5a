import { proxy, wrap } from 'comlink';
import type { Door } from '../../service/case/case.worker';
import type { ImportResult } from '../../service/case/importing';

/** Imports a case file in a worker of its own, so that a large one does not hold up the page. */
export async function importInWorker(
  file: File,
  report: (fraction: number) => void
): Promise<ImportResult> {
  const worker = new Worker(new URL('../../service/case/case.worker.ts', import.meta.url), {
    type: 'module'
  });
  try {
    return await wrap<Door>(worker).importCase(file, file.name, proxy(report));
  } finally {
    worker.terminate();
  }
}
