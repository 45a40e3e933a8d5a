export { explainCell } from './explain';
export type { CellField, CellPlace, CellSpan, ExplainedCell } from './explain';
export { logStretches } from './log-states';
export type { LogStretch } from './log-states';
export { PAGE_KINDS, pageMap } from './page-map';
export type { FreedTotals, PageKind, PageMap } from './page-map';
