export { isThin, sampleDatabase, enriched } from './database';
export { SampledTable } from './sample';
export { possibleReadings, workOut } from './work-out';
export type { DirectionQuestion, OfferedReading, StoreContext, WorkedOut } from './types';

/** From here on a worked-out profile is read; below it is only offered. */
export const READ_FROM = 60;
/** Below this it is not even worth offering. */
export const OFFER_FROM = 30;
