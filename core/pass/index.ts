export { runPass } from './pass';
export { PauseGate } from './types';
export type { Hasher, PassEvent, PassRequest, SourceInput, Stage } from './types';
