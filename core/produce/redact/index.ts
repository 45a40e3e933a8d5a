export { Secrets } from './match';
export type { Secret } from './match';
export { LetGo } from './let-go';
export { searched } from './search';
export type { Leak } from './search';
export { RedactionError, Redactor } from './redactor';
export type { Area, RedactionCount, RedactionEntry } from './redactor';
