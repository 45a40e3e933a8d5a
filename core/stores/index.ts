export { bestProfile, tablesOf } from './fit';
export type { ReadingProfile } from './profile';
export { readMessages } from './read';
export type { StoreAttachment, StoreMessage, StoreThread } from './read';
export { TableSet } from './tables';
