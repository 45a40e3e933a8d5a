import { expose, proxy } from 'comlink';
import { CaseDesk } from './desk';
import { importCase } from './importing';
import type { CaseDeskApi } from './desk-api';
import type { DeskEvent } from '../api/protocol';

/** The worker's door: one desk with a listener for what it tells unasked, and the import of case files. */
const door = {
  importCase,
  desk(listener: (event: DeskEvent) => void): CaseDeskApi {
    return proxy(new CaseDesk(listener));
  }
};

export type Door = typeof door;

expose(door);
