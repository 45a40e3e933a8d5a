/** Opens a case that was read from a case file: its conversations, joined people, folded copies and numbered lines. */
import { idKey, numberRows } from './lines';
import type { Decisions, NamedAddresses } from './people';
import {
  emptyCounts,
  emptyFindings,
  OWNER,
  sourceIn,
  type FileRecord,
  type Findings,
  type JoinedFile,
  type Message,
  type Source,
  type Thread
} from '../records';
import { CaseIndex } from './case-index';
import { indexOf, sharedLines } from './conversations';
import { HeldStore } from './held-store';
import { Naming } from './naming';
import type { CaseParts } from './production-input';
import { inOrder } from './store-entry';

/** What a case file says of a case. */
export interface ReadCaseFile {
  name: string;
  zone: string;
  sources: readonly Source[];
  findings: Findings;
  files: readonly FileRecord[];
  /** Numbers that lines have in the case already, by the ids of their messages. */
  lines: ReadonlyMap<string, number>;
  told: ToldOfCase;
}

/** What somebody said of a case's people, files and lines. */
export interface ToldOfCase {
  client?: string;
  names?: Readonly<Record<string, string>>;
  book?: readonly NamedAddresses[] | undefined;
  decisions?: Decisions | undefined;
  fileJoins?: Readonly<Record<string, JoinedFile>>;
  /** The last line number given. */
  lastLine?: number;
}

/** @returns everything that records are produced from. */
export async function openCase(file: ReadCaseFile): Promise<CaseParts> {
  const { name, zone, sources, files, lines, told } = file;
  const findings = complete(file.findings);
  const stores = findings.stores.map(({ id }) => new HeldStore(ofStore(findings, id)));
  numberLines(stores, lines, told.lastLine ?? 0);
  const ordered = inOrder(stores);
  const shared = await sharedLines(ordered);
  const empty = CaseIndex.empty<HeldStore>('');
  const before = new CaseIndex(ordered, { ...empty.record, shared });
  const index = await indexOf('', ordered, before, told);
  index.joinFiles(told.fileJoins);
  const named = new Naming(index.people, told.names ?? {}, told.client ?? '', index.individuals);
  return {
    ...{ name, zone, index, naming: named, files },
    sources: sources.map(({ id, name, kind, sha256, bytes, depth }) => ({
      ...{ id, name, kind, sha256, bytes, depth }
    })),
    attachments: await index.attachments()
  };
}

/** Lines keep the numbers that they have in the case; others are counted store by store after the last. */
function numberLines(
  stores: readonly HeldStore[],
  given: ReadonlyMap<string, number>,
  lastLine: number
): void {
  const known = new Map<number, number>();
  let last = lastLine;
  for (const [id, line] of given) {
    known.set(idKey(id), line);
    last = Math.max(last, line);
  }
  for (const { columns } of stores) last = numberRows(columns, known, last, true);
}

/** A case file of another make may leave out stores and conversations that its messages name. */
function complete(findings: Findings): Findings {
  const stores = new Map(findings.stores.map((store) => [store.id, store]));
  const threads = new Map(findings.threads.map((thread) => [thread.id, thread]));
  const unlisted = new Map<string, Message[]>();
  const messages = findings.messages.map((message) => {
    if (threads.has(message.thread)) return message;
    const own = { ...message, store: message.store || message.id.split('/')[0]! };
    unlisted.set(own.thread, [...(unlisted.get(own.thread) ?? []), own]);
    return own;
  });
  for (const [id, list] of unlisted) threads.set(id, threadOf(id, list));
  for (const { store } of threads.values())
    if (!stores.has(store))
      stores.set(store, {
        ...{ id: store, source: sourceIn(store), path: store, profile: '', fit: 0 },
        ...{ counts: emptyCounts(), limits: [], span: null }
      });
  return { ...findings, messages, stores: [...stores.values()], threads: [...threads.values()] };
}

/** A conversation that only its messages tell of. */
function threadOf(id: string, messages: readonly Message[]): Thread {
  const others = messages.flatMap(({ sender }) =>
    sender === null || sender === OWNER ? [] : sender
  );
  const participants = [...new Set(others)];
  return {
    id,
    store: messages[0]!.store,
    title: null,
    participants,
    group: participants.length > 1
  };
}

/** The part of the findings that belongs to one store. */
export function ofStore(findings: Findings, store: string): Findings {
  const isOwn = (id: string): boolean => id.startsWith(`${store}/`);
  return {
    ...emptyFindings(),
    stores: findings.stores.filter((one) => one.id === store),
    people: findings.people,
    threads: findings.threads.filter((thread) => thread.store === store),
    messages: findings.messages.filter((message) => message.store === store),
    attachments: findings.attachments.filter(({ message }) => isOwn(message)),
    calls: findings.calls.filter((call) => call.store === store),
    contacts: findings.contacts.filter((contact) => contact.store === store),
    gaps: findings.gaps.filter((gap) => gap.store === store)
  };
}
