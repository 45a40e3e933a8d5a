export { brokenEntry, brokenLink, chained, withheld } from './chain';
export type { BrokenLink, CustodyAct, CustodyEntry } from './chain';
