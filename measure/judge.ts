import type { Findings, Message } from '../core/records';
import type { RecoveryCase } from './cases';
import type { SentMessage } from '../core/tests/telephony';

export interface Score {
  /** Share of the live messages that are there and were found as they are; null when none is there. */
  live: number | null;
  deleted: number;
  /** Deleted bodies whose bytes are still in the source. */
  present: number;
  bodies: number;
  /** Body, time and address right. */
  full: number;
  fragments: number;
  /** Records that match no message that ever was, or that call a deleted one live. */
  invented: number;
}

/** Compares what a pass found with what was put in. */
export function judge(made: RecoveryCase, findings: Findings): Score {
  const addresses = addressesByThread(findings);
  const isRight = (record: Message, m: SentMessage): boolean =>
    record.sentAt === m.date && addresses.get(record.thread) === m.address;
  const found = new Map<string, Message[]>();
  for (const m of findings.messages) {
    if (m.state === 'fragment') continue;
    found.set(m.body, [...(found.get(m.body) ?? []), m]);
  }
  const bytes = Buffer.concat(Object.values(made.files));
  const isThere = (m: SentMessage): boolean => found.has(m.body) || isPresent(made, bytes, m);
  const present = made.deleted.filter(isThere);
  const bodies = present.filter((m) => found.has(m.body));
  const full = bodies.filter((m) => found.get(m.body)!.some((record) => isRight(record, m)));
  const ever = [...made.live, ...made.deleted];
  return {
    live: liveShare(made, findings, isRight, isThere),
    deleted: made.deleted.length,
    present: present.length,
    bodies: bodies.length,
    full: full.length,
    fragments: findings.messages.filter((m) => m.state === 'fragment').length,
    invented: invented(findings.messages, ever) + falselyLive(made, findings)
  };
}

/** Of undamaged sources every live message must come back, each once; of damaged ones those whose bytes are left. */
function liveShare(
  made: RecoveryCase,
  { messages }: Findings,
  isRight: (record: Message, m: SentMessage) => boolean,
  isThere: (m: SentMessage) => boolean
): number | null {
  const wanted = made.damaged ? made.live.filter(isThere) : made.live;
  if (wanted.length === 0) return null;
  const states = made.loose ? messages : messages.filter((m) => m.state === 'live');
  const byBody = new Map(states.map((m) => [m.body, m]));
  const right = wanted.filter((m) => {
    const record = byBody.get(m.body);
    return record && isRight(record, m);
  });
  const tooMany = made.damaged ? 0 : Math.max(0, states.length - wanted.length);
  return (right.length - tooMany) / wanted.length;
}

function falselyLive(made: RecoveryCase, { messages }: Findings): number {
  const live = new Set(made.live.map((m) => m.body));
  return messages.filter((m) => m.state === 'live' && !live.has(m.body)).length;
}

function addressesByThread(findings: Findings): Map<string, string> {
  const people = new Map(findings.people.map((person) => [person.id, person.addresses[0] ?? '']));
  return new Map(
    findings.threads.map((t) => [t.id, t.participants.map((id) => people.get(id)).join('+')])
  );
}

function invented(records: Message[], ever: SentMessage[]): number {
  const bodies = new Set(ever.map((m) => m.body));
  const byDate = new Map(ever.map((m) => [m.date, m.body]));
  return records.filter((record) => {
    if (record.state === 'live') return false;
    if (record.state !== 'fragment') return !bodies.has(record.body);
    const start = record.body.replace(/\ufffc$/, '');
    const known = record.sentAt === null ? undefined : byDate.get(record.sentAt);
    return known === undefined
      ? !ever.some((m) => m.body.startsWith(start))
      : !known.startsWith(start);
  }).length;
}

/** A body counts as present when its bytes lie in one piece in the source, or in pieces on overflow pages. */
function isPresent({ encoding }: RecoveryCase, source: Buffer, message: SentMessage): boolean {
  const text = Buffer.from(message.body, encoding === 'utf8' ? 'utf8' : 'utf16le');
  if (encoding === 'utf16be') text.swap16();
  if (source.includes(text)) return true;
  return inPieces(source, text);
}

const SHORTEST_PIECE = 24;

/** Whether the text is there piece by piece, each piece long enough not to be there by chance. */
function inPieces(source: Buffer, text: Buffer): boolean {
  for (let at = 0; at < text.length;) {
    const length = longestFrom(source, text, at);
    if (length < Math.min(SHORTEST_PIECE, text.length - at)) return false;
    at += length;
    // The last piece may be short only when it is joined to what was there before.
    if (at < text.length && text.length - at < SHORTEST_PIECE) {
      return source.includes(text.subarray(text.length - SHORTEST_PIECE));
    }
  }
  return true;
}

/** How many bytes of the text, from an offset on, stand together in the source. */
function longestFrom(source: Buffer, text: Buffer, at: number): number {
  let low = 0;
  let high = text.length - at;
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (source.includes(text.subarray(at, at + middle))) low = middle;
    else high = middle - 1;
  }
  return low;
}
