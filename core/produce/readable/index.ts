export { isCutShort } from './whole';
export { needsCopy, readableCopy } from './readable';
export { UnreadableError } from './types';
export { coverAreas } from './cover';
export { pictureSize } from './picture-size';
export type { PictureModules } from './modules';
export type { Readable } from './types';
export { smallerPicture } from './smaller';
