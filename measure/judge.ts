import type { Findings, Message } from '../core/records';
import type { RecoveryCase } from './cases';
import type { SentMessage } from '../core/tests/telephony';

export interface Score {
  liveExact: boolean;
  deleted: number;
  /** Deleted bodies whose bytes are still in the file. */
  present: number;
  bodies: number;
  /** Body, time and address right. */
  full: number;
  fragments: number;
  /** Records that match no message that ever was. */
  invented: number;
}

/** Compares what a pass found with what was put in. */
export function judge(made: RecoveryCase, findings: Findings): Score {
  const addresses = addressesByThread(findings);
  const describe = (m: Message): string => [m.body, m.sentAt, addresses.get(m.thread)].join('|');
  const live = findings.messages.filter((m) => m.state === 'live').map(describe);
  const expected = made.live.map((m) => [m.body, m.date, m.address].join('|'));
  const found = new Map(
    findings.messages.filter((m) => m.state === 'recovered').map((m) => [m.body, m])
  );
  const present = made.deleted.filter((m) => found.has(m.body) || isPresent(made, m));
  const bodies = present.filter((m) => found.has(m.body));
  const full = bodies.filter((m) => {
    const record = found.get(m.body)!;
    return record.sentAt === m.date && addresses.get(record.thread) === m.address;
  });
  const ever = [...made.live, ...made.deleted];
  return {
    liveExact: live.sort().join('\n') === expected.sort().join('\n'),
    deleted: made.deleted.length,
    present: present.length,
    bodies: bodies.length,
    full: full.length,
    fragments: findings.messages.filter((m) => m.state === 'fragment').length,
    invented: invented(findings.messages, ever)
  };
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
    if (record.state !== 'fragment') return !bodies.has(record.body);
    const start = record.body.replace(/\ufffc$/, '');
    const known = record.sentAt === null ? undefined : byDate.get(record.sentAt);
    return known === undefined
      ? !ever.some((m) => m.body.startsWith(start))
      : !known.startsWith(start);
  }).length;
}

/** A body counts as present when its bytes lie in one piece in the file, or in pieces on overflow pages. */
function isPresent({ bytes, encoding }: RecoveryCase, message: SentMessage): boolean {
  const file = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const text = Buffer.from(message.body, encoding === 'utf8' ? 'utf8' : 'utf16le');
  if (encoding === 'utf16be') text.swap16();
  if (file.includes(text)) return true;
  return inPieces(file, text);
}

const SHORTEST_PIECE = 24;

function inPieces(file: Buffer, text: Buffer): boolean {
  for (let cut = SHORTEST_PIECE; cut + SHORTEST_PIECE <= text.length; cut++) {
    if (file.includes(text.subarray(0, cut)) && file.includes(text.subarray(cut))) return true;
  }
  return false;
}
