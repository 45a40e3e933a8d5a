export { runPass } from './pass';
export { PauseGate } from './gate';
export { SourceFiles } from './open-file';
export { EVERYTHING, KINDS } from './types';
export type {
  Hasher,
  InputFile,
  Kind,
  PassEvent,
  PassRequest,
  SourceInput,
  Stage,
  Want
} from './types';
