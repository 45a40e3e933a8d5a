export { fittingProfiles, readsHashedNames, tablesOf } from './fit';
export { readingProfileSchema } from './profile-schema';
export { openDesk } from './worked-out/desk';
export type { NumberedTable } from './types';
export type { DeskColumn, DeskTable, ProfileDesk } from './worked-out/desk';
export type { Choice } from './fit';
export { CLOCKS_BY_NAME } from './profile';
export type { Clock, Expression, MessageMapping, ReadingProfile } from './profile';
export { isStreamable, readStore, readStreamed } from './read';
export type { StreamedReading } from './read';
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
