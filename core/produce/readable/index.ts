export { isCutShort } from './whole';
export { needsCopy, readableCopy } from './readable';
export { UnreadableError } from './types';
export type { PictureModules, Readable } from './types';
export { smallerPicture } from './smaller';
