import {
  proofText,
  type Production,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine
} from '../model';
import { shown, type Text } from '../parts';
import { textFile, type FormatContext, type ProducedFile } from './format';

/** One record a line, in the case file's words, with the line's number and stamp. */
export function* produceJsonLines(
  production: Production,
  context: FormatContext
): Generator<ProducedFile> {
  const out: string[] = [];
  const put = (record: string, fields: object): void => {
    out.push(JSON.stringify({ record, ...fields }));
  };
  put('production', {
    format: 'ombudsman-records',
    version: 1,
    zone: production.head.zone,
    case: production.head.caseName
  });
  for (const source of production.sources) put('source', source);
  for (const thread of production.threads) {
    put('thread', {
      id: thread.id,
      title: shown(thread.title),
      participants: thread.participants.map(({ name, address }) => ({
        name: shown(name),
        address: shown(address)
      })),
      group: thread.isGroup
    });
    for (const line of thread.lines) {
      for (const gap of thread.gapsBefore.get(line.id) ?? [])
        put('gap', { thread: thread.id, before: line.id, ...gapOf(gap) });
      put('message', messageOf(thread.id, line, context));
    }
    for (const gap of thread.gapsAtEnd)
      put('gap', { thread: thread.id, before: null, ...gapOf(gap) });
    for (const file of thread.lines.flatMap(({ attachments }) => attachments))
      put('attachment', fileOf(file));
  }
  for (const file of production.files)
    put('file', {
      ...fileOf(file),
      carriers: file.carriers.map(({ line, at, sender, conversation, state }) => ({
        line,
        sentAt: iso(at),
        sender: orNull(sender),
        conversation: orNull(conversation),
        state
      }))
    });
  for (const gap of production.gaps) put('gap', { with: orNull(gap.who ?? []), ...gapOf(gap) });
  for (const call of production.calls)
    put('call', { ...call, who: shown(call.who), address: shown(call.address), at: iso(call.at) });
  for (const contact of production.contacts)
    put('contact', {
      ...contact,
      name: shown(contact.name),
      phones: contact.phones.map(shown),
      emails: contact.emails.map(shown),
      organisation: shown(contact.organisation),
      note: shown(contact.note)
    });
  yield textFile('records.jsonl', `${out.join('\n')}\n`);
}

function gapOf({ count, from, to, reason }: ProductionGap): object {
  return { count, from: iso(from), to: iso(to), reason };
}

function messageOf(
  thread: string,
  line: ProductionLine,
  { serials, settings }: FormatContext
): object {
  return {
    id: line.id,
    thread,
    line: line.number,
    serial: serials.get(line.id) ?? null,
    sender: orNull(line.sender),
    senderAddress: orNull(line.address),
    direction: line.direction,
    sentAt: iso(line.at),
    deliveredAt: iso(line.refers.deliveredAt),
    readAt: iso(line.refers.readAt),
    purgeAt: iso(line.refers.purgeAt),
    senderId: line.refers.senderId,
    replyTo: line.refers.replyTo,
    replaces: line.refers.replaces,
    body: shown(line.body),
    subject: orNull(line.subject),
    state: line.state,
    certainty: line.certainty,
    reasons: line.reasons,
    ...(settings.proofs === 'none'
      ? {}
      : { proofs: line.proofs, proof: line.proofs.map(proofText).join('; ') }),
    attachments: line.attachments.map(({ id }) => id),
    replyToLine: line.replyTo?.line ?? null,
    earlierOfLine: line.earlierOf,
    reactions: line.reactions.map(({ who, text, at }) => ({
      who: shown(who),
      text: shown(text),
      at: iso(at)
    })),
    location: line.place && { ...line.place, label: shown(line.place.label) },
    context: line.isContext,
    source: line.source,
    store: line.store
  };
}

function fileOf(file: ProductionFile): object {
  const { id, name, mime, bytes, sha256, state, code, areas, byHand } = file;
  // The checksum of what is covered in part would prove what is under the bars.
  const isWhole = code === null && areas.length === 0;
  return {
    id,
    name: shown(name),
    mime,
    bytes: isWhole ? bytes : null,
    sha256: isWhole ? sha256 : null,
    state,
    joinedByHand: byHand,
    redacted: code ?? (areas.length > 0 ? areas.map((area) => area.code) : null)
  };
}

function orNull(text: Text): string | null {
  return text.length === 0 ? null : shown(text);
}

function iso(at: number | null): string | null {
  return at === null ? null : new Date(at).toISOString();
}
