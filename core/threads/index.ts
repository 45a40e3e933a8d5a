export { shownAddress } from './address';
export type { CountryCode } from './address';
export { assembleStore, assembleStreamed } from './assemble';
export { byTime, personId } from './assembly';
export type { StoreFacts } from './assembly';
export { nameByContacts } from './contacts';
export { correspondents, mergePeople, numberLines } from './correspondents';
export type { Correspondent } from './correspondents';
