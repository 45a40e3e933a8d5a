export { Database } from './database';
export type { DatabaseFiles, LiveRow } from './database';
export { isReread, placesOf, sampleOf } from './live-rows';
export type { LiveRows } from './live-rows';
export { holdsPages, linksAgree, openDatabase } from './damaged/open';
export type { OpenedDatabase } from './damaged/opened';
export { guessEncoding, syntheticHeader } from './damaged/guess-header';
export { fillsItsSize, isBtreePage, isPageKind, pageKeys } from './damaged/page-check';
export { headerAt } from './header';
export type { DatabaseHeader } from './header';
export { TABLE_INTERIOR, TABLE_LEAF } from './page';
export { PageSet } from './pages';
export { SqliteFormatError } from './errors';
export type { Damage, SqliteProblem } from './errors';
export { explainCell, logStretches, PAGE_KINDS, pageMap } from './inside';
export type {
  CellField,
  CellPlace,
  CellSpan,
  ExplainedCell,
  FreedTotals,
  LogStretch,
  PageKind,
  PageMap
} from './inside';
export type { Layout } from './freed/layout';
export type { PageUses } from './freed/owners';
export { recoverTables, sampledLayouts } from './freed/recover';
export type { RecoverProgress, RecoveredTable } from './freed/recover';
export { freedSpace } from './freed/space';
export type { FreedRow, RowProof } from './freed/row';
export type { SqlValue } from './record';
export { tableSchema } from './schema';
export type { TableSchema } from './schema';
