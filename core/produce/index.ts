export { proofText, STATE_MARKS } from './model';
export type { ProducedFile, Production, ProductionLine, ProductionThread } from './model';
export { FORMATS, produce } from './produce';
export type { Format } from './produce';
export { isZone, ZonedTime } from './time';
export { visible } from './visible';
