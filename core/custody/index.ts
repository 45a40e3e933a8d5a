export {
  brokenEntry,
  brokenLink,
  chained,
  entriesIn,
  hashAlone,
  isInternal,
  withheld
} from './chain';
export type { BrokenLink, CustodyAct, CustodyEntry } from './chain';
