import { idKey } from '$core/case/lines';
import { emptyFindings, type Findings, type Message } from '$core/records';
import { openStorage } from '../../storage/open';
import type { CaseRecord, ChunkRecord } from '../../storage/schema';
import type { Keeper } from './keeping';

/** Fields of messages that the first versions did not have. */
const LATER: Pick<Message, 'purgeAt' | 'replaces' | 'reactions' | 'location' | 'replyTo'> = {
  purgeAt: null,
  replaces: null,
  reactions: [],
  location: null,
  replyTo: null
};

/**
 * Moves the messages of a case from an earlier version of the storage, store
 * by store; each is there in one form or the other, whenever this is cut off.
 */
export async function moveChunks(keeper: Keeper, record: CaseRecord): Promise<CaseRecord> {
  const db = await openStorage();
  const keys = await db.getAllKeysFromIndex('chunks', 'case', record.id);
  const stores = new Map(
    keys.map(([, source, store]) => [`${source}/${store}`, { source, store }])
  );
  let updated = record;
  for (const { source, store } of stores.values()) {
    const prefix: [string, string, string] = [record.id, source, store];
    const chunks = await db.getAll('chunks', IDBKeyRange.bound(prefix, [...prefix, []]));
    const facts = (await db.get('sources', `${record.id}/${source}`))?.stores ?? [];
    const findings = findingsOf(chunks);
    findings.stores = facts.filter(({ id }) => id === store);
    if (findings.stores.length === 0) findings.stores = [unknownStore(source, store)];
    const given = numbersIn(chunks);
    updated = await keeper.keep(source, findings, updated, {
      isFinal: false,
      given,
      instead: prefix
    });
  }
  return updated;
}

function findingsOf(chunks: readonly ChunkRecord[]): Findings {
  const findings = emptyFindings();
  for (const chunk of chunks) {
    findings.threads = findings.threads.concat(chunk.threads);
    findings.people = findings.people.concat(chunk.people);
    findings.messages = findings.messages.concat(
      chunk.messages.map((message) => ({ ...LATER, ...message }))
    );
    findings.attachments = findings.attachments.concat(chunk.attachments);
    // Cases of the first version of the storage have none of these.
    findings.calls = findings.calls.concat(chunk.calls ?? []);
    findings.contacts = findings.contacts.concat(chunk.contacts ?? []);
    findings.gaps = findings.gaps.concat(chunk.gaps ?? []);
  }
  return findings;
}

function numbersIn(chunks: readonly ChunkRecord[]): Map<number, number> {
  const given = new Map<number, number>();
  for (const { messages, lines } of chunks)
    messages.forEach(({ id }, i) => {
      if (lines[i]) given.set(idKey(id), lines[i]!);
    });
  return given;
}

/** A store of which nothing but its messages was kept. */
function unknownStore(source: string, id: string): Findings['stores'][number] {
  const counts = { live: 0, held: 0, recovered: 0, fragment: 0, earlier: 0 };
  return { id, source, path: id, profile: '', fit: 0, counts, limits: [], span: null };
}
