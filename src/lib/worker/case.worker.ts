import { expose, proxy } from 'comlink';
import { CaseDesk } from './desk';
import type { CaseDeskApi, DeskEvent } from './protocol';

/** The worker's door: one desk, and a listener for what it tells unasked. */
const door = {
  desk(listener: (event: DeskEvent) => void): CaseDeskApi {
    return proxy(new CaseDesk(listener));
  }
};

export type Door = typeof door;

expose(door);
