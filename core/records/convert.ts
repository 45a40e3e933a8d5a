import { CASE_FORMAT, type CaseFile } from './casefile';
import type { Attachment, Device, Findings, Message, Source } from './model';

type FileMessage = CaseFile['messages'][number];
type FileSource = CaseFile['sources'][number];

/** Milliseconds to ISO 8601 in UTC; null for unknown and for times that no calendar holds. */
function isoTime(at: number | null): string | null {
  if (at === null || !Number.isFinite(at) || Math.abs(at) > 8.64e15) return null;
  const text = new Date(at).toISOString();
  // Years outside 0 to 9999 have a sign and six digits, which ISO readers refuse.
  return text.length === 24 ? text : null;
}

function fromIso(text: string | null): number | null {
  return text === null ? null : Date.parse(text);
}

export function messageToFile(message: Message): FileMessage {
  const { id, thread, sender, direction, body, subject, state, replaces, certainty } = message;
  return {
    id,
    thread,
    sender,
    direction,
    sentAt: isoTime(message.sentAt),
    deliveredAt: isoTime(message.deliveredAt),
    readAt: isoTime(message.readAt),
    body,
    subject,
    state,
    purgeAt: isoTime(message.purgeAt),
    replaces,
    certainty,
    reasons: message.reasons,
    proofs: message.proofs,
    attachments: message.attachments,
    replyTo: message.replyTo,
    reactions: message.reactions.map((r) => ({ ...r, at: isoTime(r.at) })),
    location: message.location
  };
}

export function sourceToFile(source: Source): FileSource {
  const device = { ...source.device, backedUpAt: isoTime(source.device.backedUpAt) };
  return { ...source, device };
}

function sourceFromFile(source: FileSource): Source {
  const device: Device = { ...source.device, backedUpAt: fromIso(source.device.backedUpAt) };
  return { ...source, device };
}

function messageFromFile(message: FileMessage, store: string): Message {
  return {
    ...message,
    store,
    sentAt: fromIso(message.sentAt),
    deliveredAt: fromIso(message.deliveredAt),
    readAt: fromIso(message.readAt),
    purgeAt: fromIso(message.purgeAt),
    reactions: message.reactions.map((r) => ({ ...r, at: fromIso(r.at) }))
  };
}

/** One document with everything found. `made` is the moment of writing. */
export function toCaseFile(
  sources: Source[],
  findings: Findings,
  made: Date,
  zone: string
): CaseFile {
  return {
    format: CASE_FORMAT,
    version: 1,
    made: made.toISOString(),
    zone,
    sources: sources.map(sourceToFile),
    stores: findings.stores,
    people: findings.people,
    threads: findings.threads,
    messages: findings.messages.map(messageToFile),
    attachments: findings.attachments,
    calls: [],
    contacts: [],
    files: [],
    gaps: []
  };
}

/** The records of a case file that was read and checked. */
export function fromCaseFile(file: CaseFile): { sources: Source[]; findings: Findings } {
  const storeOf = new Map(file.threads.map((thread) => [thread.id, thread.store]));
  return {
    sources: file.sources.map(sourceFromFile),
    findings: {
      stores: file.stores,
      people: file.people,
      threads: file.threads,
      messages: file.messages.map((m) => messageFromFile(m, storeOf.get(m.thread) ?? '')),
      attachments: file.attachments as Attachment[]
    }
  };
}
