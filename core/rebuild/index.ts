export { MARK, rebuildStore } from './rebuild';
export type { Rebuilt, RebuildFacts } from './rebuild';
