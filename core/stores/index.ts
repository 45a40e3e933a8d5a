export { fittingProfiles, readsHashedNames, tablesOf } from './fit';
export { readingProfileSchema } from './profile-schema';
export { openDesk } from './worked-out/desk';
export type { NumberedTable } from './types';
export type { DeskColumn, DeskTable, ProfileDesk } from './worked-out/desk';
export type { Choice } from './fit';
export { CLOCKS_BY_NAME } from './profile';
export type { Clock, Expression, MessageMapping, ReadingProfile } from './profile';
export { readStore } from './read';
export { StoreStream } from './stream';
export { isPlainText, plainTime, plainUnique } from './plain';
export type { PlainRows } from './plain';
export type { RecordCursor } from '../sqlite';
export type { FreedMessages, PlainFreed, PlainPlace, PlainSink } from './stream';
export { ROW_NUMBER } from './certainty';
export { liveMethod, LIVE_ROW, ofTable } from './row';
export { TableSet } from './tables';
export type { ReadableTable } from './tables';
export type {
  StoreAttachment,
  StoreCall,
  StoreContact,
  StoreMessage,
  StoreProof,
  StoreReaction,
  StoreReading,
  StoreThread
} from './types';
export {
  OFFER_FROM,
  READ_FROM,
  isThin,
  sampleDatabase,
  SampledTable,
  workOut,
  workOutRecovered
} from './worked-out';
export type { WorkedOut } from './worked-out';
