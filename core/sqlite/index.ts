export { Database } from './read/database';
export type { DatabaseFiles, LiveRow } from './read/database';
export { columnsTransfer, readColumns } from './read/leaf-columns';
export type { Damaged, LeafColumns, LeafReader } from './read/leaf-columns';
export { passingLeafAt, readLeaf } from './read/leaves';
export { isReread, sampleOf } from './read/live-rows';
export type { VisitedPage } from './format/btree';
export type { PagePlace } from './format/pages';
export type { LargeRows, LiveRows } from './read/live-rows';
export { LeafCells } from './format/leaf-cells';
export { RecordCursor } from './format/record-cursor';
export { GUESSED_NAME } from './read/guess-tables';
export { holdsPages, linksAgree, openDatabase } from './repair/open';
export { openLog } from './repair/from-companions';
export type { OpenedDatabase } from './repair/opened';
export { guessEncoding, syntheticHeader } from './repair/guess-header';
export {
  cellsOfTrunk,
  fillsItsSize,
  isBtreePage,
  isFilledExactly,
  isPageKind,
  pageKeys,
  rowsOfTrunk
} from './format/page-check';
export { headerAt, isPageSize, PAGE_SIZES } from './format/header';
export { lifeOf, statesOf } from './inspect/history';
export type { FileState, RowEvent } from './inspect/history';
export type { DatabaseHeader } from './format/header';
export { TABLE_INTERIOR, TABLE_LEAF } from './format/page';
export { PageSet } from './format/pages';
export { readWalAt } from './format/wal';
export type { WriteAheadLog } from './format/wal';
export { SqliteFormatError } from './format/errors';
export type { Damage, SqliteProblem } from './format/errors';
export { explainCell, logStretches, PAGE_KINDS, pageMap } from './inspect';
export type {
  CellField,
  CellPlace,
  CellSpan,
  ExplainedCell,
  FreedTotals,
  LogStretch,
  PageKind,
  PageMap
} from './inspect';
export type { Layout } from './recover/layout';
export { recoverTables, sampledLayouts } from './recover/recover';
export type { RecoverProgress, RecoveredTable } from './recover/recover';
export { FreedRows, rowNumbersOf, WholeRows } from './recover/freed-rows';
export type { FreedFacts, FreedRowList, PackedRows } from './recover/freed-rows';
export { PageUses } from './recover/owners';
export { searchShare, transferOf } from './recover/share';
export type { SearchCrew, ShareFound, SharePlan } from './recover/share';
export type { PageRange } from './recover/images';
export { noSpace } from './recover/space';
export type { FreedSpace } from './recover/space';
export type { FreedRow, RowProof } from './recover/row';
export type { SqlValue } from './format/record';
export { tableSchema } from './format/schema';
export type { TableSchema } from './format/schema';
