export { joinedFilesSchema, CASE_FORMAT, caseFileSchema } from './casefile';
export { CASE_SECTIONS, caseParts, CaseStreamError } from './case-stream';
export type { CasePart } from './case-stream';
export type { CaseFile } from './casefile';
export {
  attachmentToFile,
  callToFile,
  contactToFile,
  fileToFile,
  fromCaseFile,
  gapToFile,
  messageFromFile,
  messageJson,
  sourceToFile,
  storeToFile,
  toCaseFile
} from './convert';
export {
  emptyCounts,
  emptyDevice,
  emptyFindings,
  emptyInside,
  gapId,
  isCut,
  LOST_MARK,
  withJoined,
  type JoinedFile,
  messagesIn,
  mostPresent,
  OWNER,
  STATES
} from './model';
export type {
  Attachment,
  Call,
  CallDirection,
  CandidateFacts,
  ReadingFacts,
  Contact,
  Counts,
  Depth,
  Device,
  FileDeletion,
  FileRecord,
  Inside,
  Direction,
  Findings,
  Gap,
  Message,
  Note,
  PackageFacts,
  GlancedPart,
  SourceGlance,
  Person,
  Place,
  Proof,
  ProofMethod,
  Reaction,
  RecordState,
  Source,
  SourcePart,
  Store,
  Thread
} from './model';
export { listOfFiles, sourceIn, storeId } from './ids';
export type { SummedFile } from './ids';
export { JsonBytes } from './json-bytes';
export type { JsonChunk, JsonFrame } from './json-bytes';
export {
  BatchBuilder,
  BatchJson,
  batchTransfer,
  bodyAt,
  extraAt,
  idAt,
  messagesOf,
  momentAt,
  originAt,
  textAt,
  TextBuilder
} from './batch';
export type {
  BatchContext,
  IdForm,
  LineColumns,
  MessageBatch,
  MessageExtra,
  OriginColumns,
  PlainMessage,
  ProofForm,
  ReasonForm,
  TextColumns
} from './batch';
export { fileKindOf } from './file-kind';
export type { FileKind } from './file-kind';
