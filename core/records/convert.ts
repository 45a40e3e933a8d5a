import { CASE_FORMAT, type CaseFile } from './casefile';
import {
  emptyInside,
  type Attachment,
  type Call,
  type Contact,
  type Device,
  type FileRecord,
  type Findings,
  type Gap,
  type Message,
  type Proof,
  type Source,
  type Store
} from './model';

type FileMessage = CaseFile['messages'][number];
type FileSource = CaseFile['sources'][number];

const DAY = 86_400_000;
/** Dates by day; a case spans a few thousand, and times are written by the million. */
const dates = new Map<number, string>();
const MOST_DATES = 50_000;

function twoDigits(n: number): string {
  return n < 10 ? `0${n}` : `${n}`;
}

/** Milliseconds to ISO 8601 in UTC; null for unknown and for times that no calendar holds. */
export function isoTime(at: number | null): string | null {
  if (at === null || !Number.isInteger(at) || at < 0 || at > LAST_PLAIN) return rareTime(at);
  const day = Math.floor(at / DAY);
  let date = dates.get(day);
  if (date === undefined) {
    date = new Date(at).toISOString().slice(0, 11);
    if (dates.size < MOST_DATES) dates.set(day, date);
  }
  let rest = at - day * DAY;
  const ms = rest % 1000;
  rest = (rest - ms) / 1000;
  const seconds = rest % 60;
  rest = (rest - seconds) / 60;
  const minutes = rest % 60;
  const part = ms < 10 ? `00${ms}` : ms < 100 ? `0${ms}` : `${ms}`;
  return `${date}${twoDigits((rest - minutes) / 60)}:${twoDigits(minutes)}:${twoDigits(seconds)}.${part}Z`;
}

/** The last moment of the year 9999. */
const LAST_PLAIN = 253_402_300_799_999;

function rareTime(at: number | null): string | null {
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

/** The same as the JSON text of {@link messageToFile}, for cases of millions of messages. */
export function messageJson(m: Message): string {
  const time = (at: number | null): string => (at === null ? 'null' : jsonOf(isoTime(at)));
  return (
    `{"id":${JSON.stringify(m.id)},"thread":${JSON.stringify(m.thread)},` +
    `"sender":${jsonOf(m.sender)},"direction":"${m.direction}",` +
    `"sentAt":${time(m.sentAt)},"deliveredAt":${time(m.deliveredAt)},"readAt":${time(m.readAt)},` +
    `"body":${JSON.stringify(m.body)},"subject":${jsonOf(m.subject)},` +
    `"state":"${m.state}","purgeAt":${time(m.purgeAt)},"replaces":${jsonOf(m.replaces)},` +
    `"certainty":${m.certainty},"reasons":${listJson(m.reasons)},` +
    `"proofs":[${m.proofs.map(proofJson).join(',')}],` +
    `"attachments":${listJson(m.attachments)},"replyTo":${jsonOf(m.replyTo)},` +
    `"reactions":${m.reactions.length === 0 ? '[]' : JSON.stringify(m.reactions.map((r) => ({ ...r, at: isoTime(r.at) })))},` +
    `"location":${m.location === null ? 'null' : JSON.stringify(m.location)}}`
  );
}

function jsonOf(text: string | null): string {
  return text === null ? 'null' : JSON.stringify(text);
}

function listJson(list: readonly string[]): string {
  return list.length === 0 ? '[]' : JSON.stringify(list);
}

function proofJson({ source, path, page, offset, length, method }: Proof): string {
  return `{"source":${JSON.stringify(source)},"path":${JSON.stringify(path)},"page":${page},"offset":${offset},"length":${length},"method":"${method}"}`;
}

export function sourceToFile({ inside: _, ...source }: Source): FileSource {
  const device = { ...source.device, backedUpAt: isoTime(source.device.backedUpAt) };
  return { ...source, device };
}

export function storeToFile({ span: _, others: __, ...store }: Store): CaseFile['stores'][number] {
  return store;
}

export function attachmentToFile({
  thumbnail: _,
  ...attachment
}: Attachment): CaseFile['attachments'][number] {
  return attachment;
}

export function callToFile({ store: _, ...call }: Call): CaseFile['calls'][number] {
  return { ...call, at: isoTime(call.at) };
}

export function contactToFile({ store: _, ...contact }: Contact): CaseFile['contacts'][number] {
  return contact;
}

export function gapToFile(gap: Gap): CaseFile['gaps'][number] {
  return { ...gap, from: isoTime(gap.from), to: isoTime(gap.to) };
}

export function fileToFile(file: FileRecord): CaseFile['files'][number] {
  return {
    ...file,
    modifiedAt: isoTime(file.modifiedAt),
    createdAt: isoTime(file.createdAt),
    deletedAt: isoTime(file.deletedAt)
  };
}

function sourceFromFile(source: FileSource): Source {
  const device: Device = { ...source.device, backedUpAt: fromIso(source.device.backedUpAt) };
  return { ...source, device, inside: emptyInside() };
}

function fileFromFile(file: CaseFile['files'][number]): FileRecord {
  return {
    ...file,
    modifiedAt: fromIso(file.modifiedAt),
    createdAt: fromIso(file.createdAt),
    deletedAt: fromIso(file.deletedAt)
  };
}

/** The store that an id names before its first slash. */
function storeOf(id: string): string {
  return id.split('/')[0]!;
}

/** A message as it is kept, of the store that its conversation is of. */
export function messageFromFile({ line: _, ...message }: FileMessage, store: string): Message {
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
  files: FileRecord[],
  made: Date,
  zone: string
): CaseFile {
  return {
    format: CASE_FORMAT,
    version: 1,
    made: made.toISOString(),
    zone,
    sources: sources.map(sourceToFile),
    stores: findings.stores.map(storeToFile),
    people: findings.people,
    threads: findings.threads,
    messages: findings.messages.map(messageToFile),
    attachments: findings.attachments.map(attachmentToFile),
    calls: findings.calls.map(callToFile),
    contacts: findings.contacts.map(contactToFile),
    files: files.map(fileToFile),
    gaps: findings.gaps.map(gapToFile)
  };
}

/** The records of a case file that was read and checked. */
export function fromCaseFile(file: CaseFile): {
  sources: Source[];
  findings: Findings;
  files: FileRecord[];
} {
  const storeOfThread = new Map(file.threads.map((thread) => [thread.id, thread.store]));
  return {
    sources: file.sources.map(sourceFromFile),
    findings: {
      stores: file.stores.map((store) => ({ ...store, span: null })),
      people: file.people,
      threads: file.threads,
      messages: file.messages.map((m) => messageFromFile(m, storeOfThread.get(m.thread) ?? '')),
      attachments: file.attachments.map((a) => ({ ...a, thumbnail: null })),
      calls: file.calls.map((c) => ({ ...c, store: storeOf(c.id), at: fromIso(c.at) })),
      contacts: file.contacts.map((c) => ({ ...c, store: storeOf(c.id) })),
      gaps: file.gaps.map((gap) => ({ ...gap, from: fromIso(gap.from), to: fromIso(gap.to) }))
    },
    files: file.files.map(fileFromFile)
  };
}
