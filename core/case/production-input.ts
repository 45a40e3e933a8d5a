/** A case as input of a production: the same wherever the case is open. */
import type { Exhibit, InputLine, InputSection, ProductionInput, Redaction } from '../produce';
import type { FileRecord, Message } from '../records';
import type { CaseIndex, KeptAttachment, Place } from './case-index';
import type { Conversation } from './model';
import type { Naming } from './naming';

/** A source as a record names it. */
export type CaseSource = ProductionInput['sources'][number];

/** Everything of a case that records are made of. */
export interface CaseParts {
  name: string;
  /** IANA zone of the case. */
  zone: string;
  sources: readonly CaseSource[];
  index: CaseIndex;
  naming: Naming;
  files: readonly FileRecord[];
  attachments: ReadonlyMap<string, KeptAttachment>;
}

/**
 * One section a correspondent, with the lines that are shown and what they are
 * shown for.
 * @param exhibits where they are given, only conversations that they have lines of are read
 */
export async function productionInput(
  { name, zone, sources, index, naming, files, attachments }: CaseParts,
  exhibits: readonly Exhibit[] | null,
  redactions: readonly Redaction[]
): Promise<ProductionInput> {
  const sections: InputSection[] = [];
  const rows = exhibits
    ? await conversationsOf(index, exhibits, carriersOf(exhibits, files, attachments))
    : index.conversations;
  for (const row of rows) {
    const section = await sectionOf(index, naming, row);
    if (section.messages.length > 0) sections.push(section);
  }
  return {
    caseName: name,
    zone,
    sources: [...sources],
    sections,
    people: [...index.people.values()],
    nameOf: (id) => ({ name: naming.person(id), address: naming.address(id) }),
    stores: new Map(index.storePaths()),
    attachments: new Map([...attachments].map(([id, { attachment }]) => [id, attachment])),
    calls: index.calls,
    contacts: index.contacts,
    gaps: index.gaps.map(({ gap }) => gap),
    files,
    membersOf: (id) => naming.members(id),
    elsewhere: await namedMessages(index, redactions),
    isPart: exhibits !== null
  };
}

/** The messages that redactions name, and their copies in other stores. */
async function namedMessages(
  index: CaseIndex,
  redactions: readonly Redaction[]
): Promise<Message[]> {
  const ids = redactions.flatMap((one) => ('message' in one ? [one.message] : []));
  const places = [...(await index.locate(ids)).values()];
  const copies = places.flatMap((place) => index.copiesOf(index.shown(place)));
  const held = await index.heldAll([...places, ...copies]);
  return held.map(({ message }) => message);
}

/** The conversations that exhibits have lines of, in the order of the case. */
async function conversationsOf(
  index: CaseIndex,
  exhibits: readonly Exhibit[],
  carriers: readonly string[]
): Promise<readonly Conversation[]> {
  const chosen = exhibits.flatMap((one) => (one.kind === 'lines' ? one.messages : []));
  const places = [...(await index.locate([...chosen, ...carriers])).values()];
  const threads = new Set(places.map((place) => index.threadOf(place)));
  const touched = new Set([...threads].map((thread) => index.correspondentOf(thread)));
  return index.conversations.filter((row) => touched.has(row));
}

/** The messages that files in exhibits came with: these say when they were sent, and by whom. */
function carriersOf(
  exhibits: readonly Exhibit[],
  files: readonly FileRecord[],
  attachments: ReadonlyMap<string, KeptAttachment>
): string[] {
  const wanted = new Set(exhibits.flatMap((one) => (one.kind === 'files' ? one.files : [])));
  if (wanted.size === 0) return [];
  const sums = new Set<string | null>();
  for (const { id, sha256 } of files) if (wanted.has(id)) sums.add(sha256);
  for (const [id, { attachment }] of attachments) if (wanted.has(id)) sums.add(attachment.sha256);
  return [...attachments].flatMap(([id, { attachment }]) => {
    const isSame = attachment.sha256 !== null && sums.has(attachment.sha256);
    return isSame || wanted.has(id) ? [attachment.message] : [];
  });
}

async function sectionOf(
  index: CaseIndex,
  naming: Naming,
  row: Conversation
): Promise<InputSection> {
  const list = await index.rows(row.id);
  const messages: InputLine[] = [];
  for (let at = 0; at < list.row.length; at++)
    messages.push(await lineAt(index, { store: list.store[at]!, row: list.row[at]! }));
  return {
    // Called by the first of its threads, as the case file calls it.
    id: row.threads[0]!,
    threads: row.threads,
    title: row.group ? naming.correspondent(row) : null,
    participants: row.participants,
    isGroup: row.group,
    messages
  };
}

async function lineAt(index: CaseIndex, place: Place): Promise<InputLine> {
  const held = await index.held(place);
  const hidden = index.copiesOf(place);
  if (hidden.length === 0) return held;
  const copies = await index.heldAll(hidden);
  return { ...held, copies: copies.map(({ message: { id, thread } }) => ({ id, thread })) };
}
