export { BatchBuilder } from './builder';
export type { PlainMessage } from './builder';
export { BatchJson } from './json';
export {
  batchTransfer,
  bodyAt,
  extraAt,
  idAt,
  messageAt,
  messagesOf,
  momentAt,
  ownExtra
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
