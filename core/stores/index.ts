export { fittingProfiles, readsHashedNames, tablesOf } from './fit';
export type { Choice } from './fit';
export type { ReadingProfile } from './profile';
export { readStore } from './read';
export { TableSet } from './tables';
export type { ReadableTable } from './tables';
export type {
  StoreAttachment,
  StoreCall,
  StoreContact,
  StoreMessage,
  StoreReaction,
  StoreReading,
  StoreThread
} from './types';
export { OFFER_FROM, READ_FROM, SampledTable, workOut, workOutDatabase } from './worked-out';
export type { WorkedOut } from './worked-out';
