import { AskedHelper, HostPool, type HelperTold } from '$core/examine';

/** How a file is opened again in another worker; a blob goes there without its bytes. */
export interface BlobHandle {
  blob: Blob;
  name: string;
}

/** A worker below this one. */
class WorkerHelper extends AskedHelper<Worker> {
  protected started(): Worker {
    const worker = new Worker(new URL('./help.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<HelperTold>) => this.take(data);
    worker.onerror = ({ message }) => this.die(new Error(message || 'a helping worker died'));
    return worker;
  }

  end(): void {
    this.thread?.terminate();
    this.die(new Error('the pass is over'));
  }
}

/** The workers that help one pass. */
export function workerPool(): HostPool {
  return new HostPool(navigator.hardwareConcurrency, () => new WorkerHelper());
}
