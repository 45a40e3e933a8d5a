import { STATES, type Message, type Proof } from '../model';
import type { MessageBatch, MessageExtra, OriginColumns, TextColumns } from './model';

const decoder = new TextDecoder('utf-8', { ignoreBOM: true });
const NOTHING: MessageExtra = {
  subject: null,
  purgeAt: null,
  replaces: null,
  attachments: [],
  replyTo: null,
  reactions: [],
  location: null
};

/** The id of a message. */
export function idAt({ idForms, idForm, idNumber }: TextColumns, i: number): string {
  const { prefix, number } = idForms[idForm[i]!]!;
  switch (number) {
    case 'none':
      return prefix;
    case 'decimal':
      return `${prefix}${idNumber[i]!}`;
    case 'hexadecimal':
      return `${prefix}${idNumber[i]!.toString(16)}`;
  }
}

/** What a message has beside what all have. */
export function extraAt(texts: TextColumns, i: number): MessageExtra {
  return ownExtra(texts, i) ?? NOTHING;
}

/** The same; null where it has nothing. */
export function ownExtra({ extras }: TextColumns, i: number): MessageExtra | null {
  let low = 0;
  let high = extras.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (extras[middle]![0] < i) low = middle + 1;
    else high = middle;
  }
  return extras[low]?.[0] === i ? extras[low]![1] : null;
}

/** The text of a message. */
export function bodyAt(texts: TextColumns, i: number): string {
  const { text, ends } = texts;
  return (
    extraAt(texts, i).body ?? decoder.decode(text.subarray(i === 0 ? 0 : ends[i - 1]!, ends[i]!))
  );
}

/** A moment; null where it is unknown. */
export function momentAt(moments: Float64Array, i: number): number | null {
  const at = moments[i]!;
  return Number.isNaN(at) ? null : at;
}

function reasonsAt({ reasonForms, reasonForm, reasonNumber }: OriginColumns, i: number): string[] {
  const { before, after, hasNumber } = reasonForms[reasonForm[i]!]!;
  const number = hasNumber ? String(reasonNumber[i]!) : '';
  return JSON.parse(`[${before}${number}${after}]`) as string[];
}

function proofsAt(origins: OriginColumns, i: number): Proof[] {
  const { proofEnds, proofForms, proofForm, page, offset, length } = origins;
  const proofs: Proof[] = [];
  for (let at = i === 0 ? 0 : proofEnds[i - 1]!; at < proofEnds[i]!; at++) {
    const { source, path, method } = proofForms[proofForm[at]!]!;
    proofs.push({
      source,
      path,
      page: page[at]! === 0 ? null : page[at]!,
      offset: offset[at]!,
      length: length[at]!,
      method
    });
  }
  return proofs;
}

/** What texts say of a message. */
export function textAt(
  texts: TextColumns,
  i: number
): Pick<Message, 'id' | 'body' | keyof Omit<MessageExtra, 'body'>> {
  const { body: _, ...extra } = extraAt(texts, i);
  return { id: idAt(texts, i), body: bodyAt(texts, i), ...extra };
}

/** What a message was read from, and how it was judged. */
export function originAt(
  origins: OriginColumns,
  i: number
): Pick<Message, 'deliveredAt' | 'readAt' | 'reasons' | 'proofs'> {
  return {
    deliveredAt: momentAt(origins.deliveredAt, i),
    readAt: momentAt(origins.readAt, i),
    reasons: reasonsAt(origins, i),
    proofs: proofsAt(origins, i)
  };
}

/** The record of a message. */
export function messageAt({ store, lines, texts, origins }: MessageBatch, i: number): Message {
  return {
    store,
    ...lines.contexts[lines.context[i]!]!,
    ...textAt(texts, i),
    ...originAt(origins, i),
    sentAt: momentAt(lines.sentAt, i),
    state: STATES[lines.state[i]!]!,
    certainty: lines.certainty[i]!
  };
}

/** All records of a batch. */
export function* messagesOf(batch: MessageBatch): Generator<Message> {
  for (let i = 0; i < batch.count; i++) yield messageAt(batch, i);
}

/** Memory that can be handed over instead of being copied. */
export function batchTransfer({ lines, texts, origins }: MessageBatch): ArrayBuffer[] {
  return [lines, texts, origins]
    .flatMap((part) => Object.values(part) as unknown[])
    .filter((column) => ArrayBuffer.isView(column))
    .map(({ buffer }) => buffer as ArrayBuffer);
}
