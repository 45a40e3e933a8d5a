export { shownAddress } from './address';
export type { CountryCode } from './address';
export { assembleStore, assembleStreamed, byTime, personId } from './assemble';
export type { StoreFacts } from './assemble';
export { nameByContacts } from './contacts';
export { correspondents, mergePeople, numberLines } from './correspondents';
export type { Correspondent } from './correspondents';
