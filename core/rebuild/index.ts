export { MARK, rebuildStore } from './rebuild';
export type { Rebuilt, RebuildFacts } from './rebuild';
export { storeRebuilder } from './production';
export type { Evidence } from './production';
