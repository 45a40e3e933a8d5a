import type { CaseIndex, Naming } from '$core/case';
import { proxyMarker, type ProxyMarked } from 'comlink';
import { proofText, type Redaction } from '$core/produce';
import { OWNER, type Message } from '$core/records';
import type { ZonedTime } from '$core/shown';
import type { SourceRecord } from '../../storage/schema';
import type {
  CorrespondentRow,
  LineDetail,
  LinePage,
  ProofView,
  ReadFilter,
  River
} from '../api/protocol';
import type { Reader } from './query';
import { RedactionRows } from './redaction-rows';
import type { OpenedSources } from '../evidence/source-files';

/** What the page asks about conversations and their lines. */
export interface LineApi extends ProxyMarked {
  correspondents(filter: ReadFilter): Promise<CorrespondentRow[]>;
  lines(correspondent: string, filter: ReadFilter, from: number, to: number): Promise<LinePage>;
  /** Where a line stands among those that a filter lets pass; -1 where it does not. */
  indexOf(correspondent: string, filter: ReadFilter, messageId: string): Promise<number>;
  /** Where in the lines that a filter lets pass those stand that hold a text. */
  hitsIn(correspondent: string, filter: ReadFilter, query: string): Promise<Uint32Array>;
  river(filter: ReadFilter, correspondent: string | null): Promise<River>;
  detail(messageId: string): Promise<LineDetail | null>;
}

interface LineHost {
  index(): CaseIndex;
  naming(): Naming;
  time(): ZonedTime;
  reader(): Reader;
  sources(): Promise<SourceRecord[]>;
  redactions(): readonly Redaction[];
  files: OpenedSources;
}

/** Most bytes of one proof that are shown beside a line. */
const PROOF_BYTES = 96;

/** Conversations, their lines, and what proves each line. */
export class LineRoom implements LineApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly host: LineHost) {}

  async correspondents(filter: ReadFilter): Promise<CorrespondentRow[]> {
    return this.host.reader().correspondents(filter);
  }

  async lines(id: string, filter: ReadFilter, from: number, to: number): Promise<LinePage> {
    return this.host.reader().lines(id, filter, from, to);
  }

  async indexOf(id: string, filter: ReadFilter, messageId: string): Promise<number> {
    const reader = this.host.reader();
    return reader.indexIn(await reader.matching(id, filter), messageId);
  }

  async hitsIn(id: string, filter: ReadFilter, query: string): Promise<Uint32Array> {
    return this.host.reader().hitsIn(id, filter, query);
  }

  async river(filter: ReadFilter, correspondent: string | null): Promise<River> {
    return this.host.reader().river(filter, correspondent);
  }

  async detail(messageId: string): Promise<LineDetail | null> {
    const index = this.host.index();
    const place = await index.locateOne(messageId);
    if (!place) return null;
    const { message, line } = await index.held(place);
    const sources = await this.host.sources();
    const own = redactionsOf(message, this.host.redactions());
    const source = sources.find((s) => s.stores.some((store) => store.id === message.store));
    return {
      line,
      message,
      ...this.said(message),
      ...placeOf(message, source),
      also: otherPlaces(index.alsoIn(place), sources),
      proofs: await Promise.all(message.proofs.map((proof) => this.proofView(proof, source))),
      files: await this.host.reader().filesOf(message.store, message.attachments),
      redactions: (await RedactionRows.of(index, this.host.naming(), own)).all(own)
    };
  }

  /** Who said it, and when, as the margin writes it. */
  private said(
    message: Message
  ): Pick<LineDetail, 'sender' | 'address' | 'sent' | 'delivered' | 'read'> {
    const [naming, time] = [this.host.naming(), this.host.time()];
    const full = (at: number | null): string | null => (at === null ? null : time.full(at));
    return {
      sender: naming.person(message.sender),
      address: message.sender === OWNER ? '' : naming.shown(message.sender),
      sent: full(message.sentAt) ?? 'unknown',
      delivered: full(message.deliveredAt),
      read: full(message.readAt)
    };
  }

  private async proofView(
    proof: ProofView['proof'],
    source: SourceRecord | undefined
  ): Promise<ProofView> {
    const length = Math.min(proof.length, PROOF_BYTES);
    const file = source && (await this.host.files.fileOf(source, proof.path));
    // What is handed over takes the memory around it along.
    const bytes = file ? file.read(proof.offset, length).slice() : null;
    return { proof, text: proofText(proof), bytes };
  }
}

function placeOf(
  message: Message,
  source: SourceRecord | undefined
): Pick<LineDetail, 'source' | 'sourceId' | 'store'> {
  const store = source?.stores.find(({ id }) => id === message.store);
  return {
    source: source?.name ?? 'a source that was removed',
    sourceId: source?.id ?? '',
    store: store?.path ?? message.store
  };
}

function otherPlaces(stores: readonly string[], sources: readonly SourceRecord[]): string[] {
  return sources.flatMap(({ name, stores: own }) =>
    own.flatMap(({ id, path }) => (stores.includes(id) ? [`${name}: ${path}`] : []))
  );
}

/** Redactions that are made in a message or its files. */
function redactionsOf({ id, attachments }: Message, all: readonly Redaction[]): Redaction[] {
  return all.filter(
    (one) =>
      ('message' in one && one.message === id) ||
      ('attachment' in one && attachments.includes(one.attachment))
  );
}
