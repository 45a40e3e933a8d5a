export { elementaryFile, filesInImage, filesInText, MOST_DUMP } from './dump';
export type { FoundFile } from './dump';
export { cardFileOf } from './files';
export type { CardMessage, CardPlace } from './join';
export { isCard, readCard } from './read';
export type { CardReading } from './read';
