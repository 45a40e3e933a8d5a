export { PART, SUMS_FILE, takeCopy } from './copy';
export type { CopyHost } from './copy';
export { COPY_DEPTHS, CopyError, WaitError } from './types';
export type {
  CopiedFile,
  CopyDepth,
  CopyEvent,
  CopyFault,
  CopyFile,
  CopyListing,
  CopyLogEntry,
  CopyPart,
  CopyPlace,
  CopyWire
} from './types';
export { CardReader } from './card-reader';
export type { Exchange, PinState, Transmit } from './card-reader';
