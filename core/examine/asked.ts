import type { Helper, HelperAnswer, HelperPool, HelperTask } from './helper';

/** What a helping thread tells: an answer, or why the task failed. */
export type HelperTold = { answer: HelperAnswer } | { failed: string };

interface Asked {
  resolve(answer: HelperAnswer): void;
  reject(error: Error): void;
}

/** What a host's threads have in common. */
interface Thread {
  postMessage(task: HelperTask): void;
}

/** The asking side of a thread that answers one task after the other; hosts say how it is started and ended. */
export abstract class AskedHelper<T extends Thread> implements Helper {
  private readonly asked: Asked[] = [];
  private dead: Error | null = null;
  /** The thread itself, once the first task was asked. */
  protected thread: T | null = null;

  ask(task: HelperTask): Promise<HelperAnswer> {
    if (this.dead) return Promise.reject(this.dead);
    return new Promise((resolve, reject) => {
      this.asked.push({ resolve, reject });
      this.thread ??= this.started();
      this.thread.postMessage(task);
    });
  }

  /** Starts the thread, with what it tells led to {@link take} and its end to {@link die}. */
  protected abstract started(): T;

  abstract end(): void;

  protected take(told: HelperTold): void {
    const asked = this.asked.shift();
    if ('answer' in told) asked?.resolve(told.answer);
    else asked?.reject(new Error(told.failed));
  }

  /** Rejects everything that was asked and not answered, and all that is asked from now on. */
  protected die(error: Error): void {
    this.dead ??= error;
    for (const { reject } of this.asked.splice(0)) reject(error);
  }
}

/** Threads that help at most: more share little work and cost memory each. */
const MOST_HELPERS = 3;

/** Helpers for the cores that a host has to spare, each made when it is first asked. */
export class HostPool implements HelperPool {
  readonly size: number;
  private helpers: AskedHelper<Thread>[] = [];

  constructor(
    cores: number,
    private readonly make: () => AskedHelper<Thread>
  ) {
    this.size = Math.max(0, Math.min(MOST_HELPERS, cores - 1));
  }

  get(index: number): Helper {
    return (this.helpers[index] ??= this.make());
  }

  /** Ends them; who asks later gets new ones. */
  end(): void {
    for (const helper of this.helpers) helper?.end();
    this.helpers = [];
  }
}

/** Answers a task as {@link HelperTold}, with the memory that can be handed over. */
export function toldOf(answer: () => { answer: HelperAnswer; transfer: ArrayBuffer[] }): {
  told: HelperTold;
  transfer: ArrayBuffer[];
} {
  try {
    const { transfer, ...told } = answer();
    return { told, transfer };
  } catch (error) {
    const failed = error instanceof Error ? error.message : String(error);
    return { told: { failed }, transfer: [] };
  }
}
