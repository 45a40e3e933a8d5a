import { proxyMarker, type ProxyMarked } from 'comlink';
import type { ByteSource } from '$core/host';
import type { ZonedTime } from '$core/shown';
import { InsideDatabase } from './inside';
import type { InsidePage, InsideRecord, InsideView } from '../api/protocol';
import type { Shelf } from '../evidence/shelf';
import type { OpenedSources } from '../evidence/source-files';
import type { RecoveredProof, KeptIndex } from '../lines/store-lines';

/** What the page asks about the pages of databases. */
export interface InsideApi extends ProxyMarked {
  /** The pages of a database; null when its bytes are not in this browser. */
  view(sourceId: string, path: string): Promise<InsideView | null>;
  page(sourceId: string, path: string, page: number): Promise<InsidePage | null>;
  /** A record with its page, from one of its proofs. */
  record(
    sourceId: string,
    path: string,
    messageId: string,
    proof: number
  ): Promise<InsideRecord | null>;
}

interface InsideHost {
  index(): KeptIndex;
  time(): ZonedTime;
  shelf(): Shelf;
  files: OpenedSources;
}

/** Looks into the pages of databases. The one that was looked into last stays open. */
export class InsideRoom implements InsideApi {
  readonly [proxyMarker] = true as const;
  private looked: { key: string; inside: InsideDatabase } | null = null;

  constructor(private readonly host: InsideHost) {}

  async view(sourceId: string, path: string): Promise<InsideView | null> {
    const inside = await this.insideOf(sourceId, path);
    return inside && inside.view(this.recoveredOf(sourceId));
  }

  async page(sourceId: string, path: string, page: number): Promise<InsidePage | null> {
    const inside = await this.insideOf(sourceId, path);
    return inside && inside.page(page);
  }

  async record(
    sourceId: string,
    path: string,
    messageId: string,
    proof: number
  ): Promise<InsideRecord | null> {
    const index = this.host.index();
    const inside = await this.insideOf(sourceId, path);
    const at = await index.locateOne(messageId);
    const message = at && (await index.held(at)).message;
    const place = message?.proofs[proof];
    if (!inside || !message || !place) return null;
    // All columns of the store are there since the message was looked for.
    const store = index.stores[at.store]!;
    return inside.record(message, place, this.host.time(), (id) => store.momentOf(id));
  }

  private async *recoveredOf(sourceId: string): AsyncGenerator<RecoveredProof> {
    for (const store of this.host.index().stores)
      if (store.record.sourceId === sourceId) yield* store.recoveredProofs();
  }

  private async insideOf(sourceId: string, path: string): Promise<InsideDatabase | null> {
    const key = `${sourceId}/${path}`;
    if (this.looked?.key === key) return this.looked.inside;
    const source = await this.host.shelf().get(sourceId);
    if (!source) return null;
    const fileOf = (name: string): Promise<ByteSource | null> =>
      this.host.files.fileOf(source, name);
    const listed = (name: string): string | null =>
      source.files.find((file) => file.path === name)?.sha256 ?? null;
    const inside = await InsideDatabase.open(path, fileOf, listed);
    this.looked = inside && { key, inside };
    return inside;
  }
}
