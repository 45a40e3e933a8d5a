export { carriedSchema, type Carried, type CopiedFrom } from './carried';
export {
  CaseIndex,
  type BriefLine,
  type Held,
  type KeptAttachment,
  type Place
} from './case-index';
export { indexOf, sharedLines, type ToldPeople } from './conversations';
export type {
  CaseStore,
  Conversation,
  IndexRecord,
  PlacedGap,
  StoreEntry,
  ToldAttachments
} from './model';
export { Naming } from './naming';
export { Recent } from './recent';
export { productionInput, type CaseParts, type CaseSource } from './production-input';
export { ofStore, openCase, type ReadCaseFile, type ToldOfCase } from './open-case';
export { inOrder, storeEntry, toldBy } from './store-entry';
