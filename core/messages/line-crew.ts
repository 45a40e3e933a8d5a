import type { LinesFound, LinesPlan, LinesTask } from './line-thread';

/** Another thread that writes rows of one table. */
export interface LineHelper {
  /** Rejects where the thread failed; its leaves are then written here. */
  write(task: LinesTask): Promise<LinesFound>;
}

/** Threads that write rows beside this one: tells them of what table, and gives who can be asked. */
export type LinesCrew = (plan: LinesPlan) => LineHelper[];
