import {
  AskedHelper,
  type Helper,
  type HelperPool,
  type HelperTask,
  type HelperTold
} from '$core/pass';

/** How a file is opened again in another worker; a blob goes there without its bytes. */
export interface BlobHandle {
  blob: Blob;
  name: string;
}

const MOST_HELPERS = 3;

/** A worker below this one. */
class WorkerHelper extends AskedHelper {
  private worker: Worker | null = null;

  protected send(task: HelperTask): void {
    this.worker ??= this.started();
    this.worker.postMessage(task);
  }

  private started(): Worker {
    const worker = new Worker(new URL('./help.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<HelperTold>) => this.take(data);
    worker.onerror = ({ message }) => this.die(new Error(message || 'a helping worker died'));
    return worker;
  }

  end(): void {
    this.worker?.terminate();
    this.die(new Error('the pass is over'));
  }
}

/** The workers that help one pass, as many as there are cores to spare. */
export class WorkerPool implements HelperPool {
  readonly size = Math.max(0, Math.min(MOST_HELPERS, navigator.hardwareConcurrency - 1));
  private readonly helpers: WorkerHelper[] = [];

  get(index: number): Helper {
    return (this.helpers[index] ??= new WorkerHelper());
  }

  /** Ends them; a later pass starts its own. */
  end(): void {
    for (const helper of this.helpers) helper?.end();
    this.helpers.length = 0;
  }
}
