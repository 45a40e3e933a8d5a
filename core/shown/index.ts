export { isZone, momentIn, ZonedTime } from './time';
export { visible } from './visible';
