export { BatchBuilder } from './builder';
export type { PlainMessage } from './builder';
export { BatchJson } from './json';
export { TextBuilder } from './text-builder';
export {
  batchTransfer,
  bodyAt,
  extraAt,
  idAt,
  messagesOf,
  momentAt,
  originAt,
  textAt
} from './read';
export type {
  BatchContext,
  IdForm,
  LineColumns,
  MessageBatch,
  MessageExtra,
  OriginColumns,
  ProofForm,
  ReasonForm,
  TextColumns
} from './model';
