export { CASE_FORMAT, caseFileSchema } from './casefile';
export type { CaseFile } from './casefile';
export { fromCaseFile, messageToFile, sourceToFile, toCaseFile } from './convert';
export { countStates, emptyCounts, emptyDevice, emptyFindings, OWNER, STATES } from './model';
export type {
  Attachment,
  Counts,
  Depth,
  Device,
  Direction,
  Findings,
  Message,
  Note,
  Person,
  Proof,
  ProofMethod,
  RecordState,
  Source,
  SourcePart,
  Store,
  Thread
} from './model';
