export { brokenLink, chained } from './chain';
export type { BrokenLink, CustodyAct, CustodyEntry } from './chain';
