import type { Helper, HelperAnswer, HelperTask } from './helper';

/** What a helping thread tells: an answer, or why the task failed. */
export type HelperTold = { answer: HelperAnswer } | { failed: string };

interface Asked {
  resolve(answer: HelperAnswer): void;
  reject(error: Error): void;
}

/** The asking side of a thread that answers one task after the other; hosts say how tasks go there. */
export abstract class AskedHelper implements Helper {
  private readonly asked: Asked[] = [];
  private dead: Error | null = null;

  ask(task: HelperTask): Promise<HelperAnswer> {
    if (this.dead) return Promise.reject(this.dead);
    return new Promise((resolve, reject) => {
      this.asked.push({ resolve, reject });
      this.send(task);
    });
  }

  /** Hands a task to the thread, which is started for the first one. */
  protected abstract send(task: HelperTask): void;

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
