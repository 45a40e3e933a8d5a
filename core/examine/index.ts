export { AskedHelper, HostPool, toldOf } from './asked';
export type { HelperTold } from './asked';
export { HelperThread } from './helper';
export type { Helper, HelperAnswer, HelperPool, HelperTask } from './helper';
export { failedGlance, glanceAt } from './glance';
export { mimeOf } from './attachments';
export { runPass } from './pass';
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
export { covers, scopeOf, wantOf, withScope } from './scope';
export type { Scope } from './scope';
