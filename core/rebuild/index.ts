export { MARK, rebuildStore } from './rebuild';
export type { Rebuilt, RebuildFacts } from './rebuild';
export { rebuiltStores, storeRebuilder } from './production';
export type { Evidence } from './production';
