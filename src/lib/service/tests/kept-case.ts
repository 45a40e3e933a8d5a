import 'fake-indexeddb/auto';
import { emptyFindings, type Findings, type Person, type Store, type Thread } from '$core/records';
import { newCase, putCase } from '../../storage/casebook';
import { openStorage } from '../../storage/open';
import type { CaseRecord, SourceRecord } from '../../storage/schema';
import { Keeper } from '../lines/keeping';
import { TextHolder } from '../lines/text-holder';
import { Hits, type TextFinder } from '../lines/text-search';
import type { KeptIndex } from '../lines/store-lines';

export const ADDRESS = '+447700900101';
export const SOMEONE = `p:${ADDRESS}`;

/** What one store gave, of which a test says only what it cares about. */
export function findingsOf(store: string, told: Partial<Findings>): Findings {
  const person: Person = { id: SOMEONE, name: null, addresses: [ADDRESS], owner: false };
  const thread: Thread = {
    id: `${store}/t/x`,
    store,
    title: null,
    participants: [SOMEONE],
    group: false
  };
  return {
    ...emptyFindings(),
    stores: [storeOf(store)],
    people: [person],
    threads: [thread],
    ...told
  };
}

function storeOf(id: string): Store {
  const counts = { live: 0, held: 0, recovered: 0, fragment: 0, earlier: 0 };
  const source = id.split('.')[0]!;
  return { id, source, path: `${id}.db`, profile: 'made', fit: 90, counts, limits: [], span: null };
}

function sourceRecord(caseId: string, id: string): SourceRecord {
  return {
    key: `${caseId}/${id}`,
    caseId,
    id,
    name: id,
    addedAt: 0,
    files: [],
    source: null,
    pass: { state: 'none' },
    stores: []
  };
}

/** A case in which these findings were kept, one store after the other. */
export async function keptCase(
  all: readonly Findings[]
): Promise<{ keeper: Keeper; record: CaseRecord }> {
  let record = newCase('Made', '', 'Europe/Oslo');
  await putCase(record);
  const keeper = await Keeper.open(record.id);
  const db = await openStorage();
  for (const { source } of all.flatMap(({ stores }) => stores))
    await db.put('sources', sourceRecord(record.id, source));
  for (const findings of all)
    record = await keeper.keep(findings.stores[0]!.source, findings, record, { isFinal: true });
  return { keeper, record };
}

/** Ids of the lines that a conversation shows. */
export async function shownIds(index: KeptIndex, conversation = SOMEONE): Promise<string[]> {
  const { store, row } = await index.rows(conversation);
  const ids: string[] = [];
  for (let at = 0; at < row.length; at++)
    ids.push((await index.held({ store: store[at]!, row: row[at]! })).message.id);
  return ids;
}

/** Searches here what the application searches in workers. */
export function finderOver({ stores }: KeptIndex): TextFinder {
  const holder = new TextHolder();
  holder.hold(
    stores.map(({ record }) => record),
    0,
    1
  );
  const find = async (query: string): Promise<Hits> => {
    const hits = new Hits(
      query,
      stores.map(({ record }) => record)
    );
    for await (const found of holder.search(query)) hits.add(found);
    hits.isDone = true;
    return hits;
  };
  return { find, begin: find };
}
