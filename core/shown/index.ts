export { inUtc } from './archive-time';
export { isZone, momentIn, ZonedTime } from './time';
export { visible } from './visible';
