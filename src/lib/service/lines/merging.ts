import { idKey } from '$core/case/lines';
import {
  gapId,
  type Call,
  type Contact,
  type Findings,
  type Gap,
  type Message
} from '$core/records';
import { mergePeople } from '$core/messages';
import { attachmentsOf } from '../../storage/lines';
import type { StoreLines } from './store-lines';

/**
 * What an examination found of a store, put to what is kept of it from one
 * that looked for other things: what the new one did not look for stays.
 * Messages are not in it: see {@link keptMessages}.
 */
export async function withKept(findings: Findings, kept: StoreLines): Promise<Findings> {
  const { record } = kept;
  const attachments = (await attachmentsOf(record)).flatMap((part) => part.attachments);
  const [facts] = findings.stores;
  const limits = [...new Set([...record.facts.limits, ...facts!.limits])];
  return {
    ...findings,
    stores: [{ ...facts!, limits, span: joinedSpan(record.facts.span, facts!.span) }],
    people: mergePeople(record.people, findings.people),
    threads: byId(record.threads, findings.threads),
    attachments: byId(attachments, findings.attachments),
    calls: byId<Call>(record.calls, findings.calls),
    contacts: byId<Contact>(record.contacts, findings.contacts),
    gaps: joinedGaps(
      record.gaps.map(({ gap }) => gap),
      findings.gaps
    )
  };
}

/** Messages that are kept of a store and did not come again. */
export async function* keptMessages(
  kept: StoreLines,
  came: ReadonlySet<number>
): AsyncGenerator<Message> {
  for await (const message of kept.messages()) if (!came.has(idKey(message.id))) yield message;
}

function byId<T extends { id: string }>(kept: readonly T[], found: readonly T[]): T[] {
  const all = new Map(kept.map((one) => [one.id, one]));
  for (const one of found) all.set(one.id, one);
  return [...all.values()];
}

function joinedGaps(kept: readonly Gap[], found: readonly Gap[]): Gap[] {
  const all = new Map([...kept, ...found].map((gap) => [gapId(gap), gap]));
  return [...all.values()];
}

type Span = Findings['stores'][number]['span'];

function joinedSpan(a: Span, b: Span): Span {
  if (!a || !b) return a ?? b;
  return { from: Math.min(a.from, b.from), to: Math.max(a.to, b.to) };
}
