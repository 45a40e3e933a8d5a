export { Database } from './database';
export type { DatabaseFiles, LiveRow } from './database';
export { columnsTransfer, readColumns } from './leaf-columns';
export type { Damaged, LeafColumns, LeafReader } from './leaf-columns';
export { passingLeafAt, readLeaf } from './leaves';
export { isReread, sampleOf } from './live-rows';
export type { VisitedPage } from './btree';
export type { PagePlace } from './pages';
export type { LargeRows, LiveRows } from './live-rows';
export { LeafCells } from './leaf-cells';
export { RecordCursor } from './record-cursor';
export { GUESSED_NAME } from './damaged/guess-tables';
export { holdsPages, linksAgree, openDatabase } from './damaged/open';
export { openLog } from './damaged/from-companions';
export type { OpenedDatabase } from './damaged/opened';
export { guessEncoding, syntheticHeader } from './damaged/guess-header';
export {
  cellsOfTrunk,
  fillsItsSize,
  isBtreePage,
  isFilledExactly,
  isPageKind,
  pageKeys,
  rowsOfTrunk
} from './damaged/page-check';
export { headerAt, isPageSize, PAGE_SIZES } from './header';
export { lifeOf, statesOf } from './history';
export type { FileState, RowEvent } from './history';
export type { DatabaseHeader } from './header';
export { TABLE_INTERIOR, TABLE_LEAF } from './page';
export { PageSet } from './pages';
export { readWalAt } from './wal';
export type { WriteAheadLog } from './wal';
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
export { recoverTables, sampledLayouts } from './freed/recover';
export type { RecoverProgress, RecoveredTable } from './freed/recover';
export { FreedRows, rowNumbersOf, WholeRows } from './freed/freed-rows';
export type { FreedFacts, FreedRowList, PackedRows } from './freed/freed-rows';
export { PageUses } from './freed/owners';
export { searchShare, transferOf } from './freed/share';
export type { SearchCrew, ShareFound, SharePlan } from './freed/share';
export type { PageRange } from './freed/images';
export { noSpace } from './freed/space';
export type { FreedSpace } from './freed/space';
export type { FreedRow, RowProof } from './freed/row';
export type { SqlValue } from './record';
export { tableSchema } from './schema';
export type { TableSchema } from './schema';
