export { agreeingProfiles } from './contradiction';
export { fittingProfiles, readsHashedNames, tablesOf } from './fit';
export { readingProfileSchema } from './profile-schema';
export { offeredChoice } from './offered';
export { openDesk } from './inferred/desk';
export type { NumberedTable } from './types';
export type { DeskColumn, DeskTable, ProfileDesk } from './inferred/desk';
export type { Choice } from './fit';
export { CLOCKS_BY_NAME } from './profile';
export type { Clock, Expression, MessageMapping, ReadingProfile } from './profile';
export { isKept, listedFreed, listedStream } from './listed-stream';
export type { MessageStream } from './message-stream';
export { readStore } from './read';
export { StoreStream } from './stream';
export {
  isNamed,
  isPlain,
  isPlainText,
  packPlain,
  plainTime,
  plainUnique,
  unpackPlain
} from './plain';
export type { PackedPlain, PlainRows } from './plain';
export { LeafRows, leavesOf } from './leaf-rows';
export type { LargeLeaves, Leaves, PlainPlace } from './leaf-rows';
export type {
  FreedMessages,
  FreedPart,
  PlainFreed,
  PlainSink,
  SharedFreedStep,
  SharedStep,
  Wait
} from './sink';
export { certaintyOf, judgeRow, ROW_NUMBER, surroundings } from './certainty';
export type { LiveBounds, Surroundings } from './certainty';
export { RecordCursor, WholeRows } from '../sqlite';
export type { FreedFacts, PackedRows, TableSchema } from '../sqlite';
export { liveMethod, LIVE_ROW, ofTable, placeKey } from './row';
export { TableSet } from './tables';
export { timesOf } from './times';
export { tableOfRows } from './inferred/fields';
export { inZone, readsZoneless } from './zone';
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
  enriched,
  possibleReadings,
  workOut
} from './inferred';
export type { DirectionQuestion, OfferedReading, StoreContext, WorkedOut } from './inferred';
