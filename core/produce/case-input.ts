import { OWNER, type Findings, type Message, type Person, type Source } from '../records';
import { byTime, numberLines, shownAddress } from '../threads';
import type { InputSection, ProductionInput } from './input';

/** A case file's records as input of a production; lines keep the numbers that they have in the case, others are counted thread by thread, in the order of time. */
export function inputOfCase(
  name: string,
  zone: string,
  sources: readonly Source[],
  findings: Findings,
  files: ProductionInput['files'],
  lines: ReadonlyMap<string, number> = new Map()
): ProductionInput {
  const people = new Map(findings.people.map((person) => [person.id, person]));
  return {
    caseName: name,
    zone,
    sources: sources.map(({ id, name, kind, sha256, bytes, depth }) => ({
      id,
      name,
      kind,
      sha256,
      bytes,
      depth
    })),
    sections: sectionsOf(findings, lines),
    people: findings.people,
    nameOf: (id) => nameOf(id, people),
    stores: new Map(findings.stores.map(({ id, path }) => [id, path])),
    attachments: new Map(findings.attachments.map((attachment) => [attachment.id, attachment])),
    calls: findings.calls,
    contacts: findings.contacts,
    gaps: findings.gaps,
    files
  };
}

function sectionsOf(
  { threads, messages }: Findings,
  lines: ReadonlyMap<string, number>
): InputSection[] {
  const byThread = new Map<string, Message[]>();
  for (const message of messages) {
    const list = byThread.get(message.thread);
    if (list) list.push(message);
    else byThread.set(message.thread, [message]);
  }
  for (const list of byThread.values()) list.sort(byTime);
  const listed = new Set(threads.map(({ id }) => id));
  // A case file of another make may leave out conversations that its messages name.
  const unlisted = [...byThread]
    .filter(([id]) => !listed.has(id))
    .map(([id, own]) => threadOf(id, own));
  const known = [...threads.filter(({ id }) => byThread.has(id)), ...unlisted];
  const numbers = numberLines(
    lines,
    known.flatMap(({ id }) => byThread.get(id)!)
  );
  return known.map(({ id, title, participants, group }) => ({
    id,
    threads: [id],
    title,
    participants,
    isGroup: group,
    messages: byThread.get(id)!.map((message) => ({ message, line: numbers.get(message.id)! }))
  }));
}

/** A conversation that only its messages tell of. */
function threadOf(id: string, messages: readonly Message[]): Findings['threads'][number] {
  const others = messages.flatMap(({ sender }) =>
    sender === null || sender === OWNER ? [] : sender
  );
  const participants = [...new Set(others)];
  const { store } = messages[0]!;
  return { id, store, title: null, participants, group: participants.length > 1 };
}

function nameOf(
  id: string | null,
  people: ReadonlyMap<string, Person>
): { name: string; address: string } {
  if (id === null) return { name: 'unknown sender', address: '' };
  const person = people.get(id);
  const [address = ''] = person?.addresses ?? [];
  if (id === OWNER || person?.owner) return { name: person?.name ?? 'owner', address };
  return { name: person?.name ?? (shownAddress(address) || id), address };
}
