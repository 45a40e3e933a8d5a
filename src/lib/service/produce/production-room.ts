import { proxyMarker, type ProxyMarked } from 'comlink';
import initSqlJs from 'sql.js';
import sqlUrl from 'sql.js/dist/sql-wasm.wasm?url';
import type { ByteSource } from '$core/host';
import { productionInput } from '$core/case';
import type { ExhibitLists } from '$core/exhibits';
import {
  settingsSchema,
  UndecidedError,
  type Exhibit,
  type Rebuilder,
  type Redaction,
  type Settings
} from '$core/produce';
import { rebuiltStores, storeRebuilder, type Evidence } from '$core/rebuild';
import { sourceIn } from '$core/records';
import { ZonedTime } from '$core/shown';
import { version } from '../../../../package.json';
import { custodyLog, logAct } from '../../storage/custody';
import { openStorage } from '../../storage/open';
import type { ProductionRecord } from '../../storage/schema';
import { partsOf, type OpenedParts } from './case-file';
import { ExhibitReader } from '../exhibits/exhibit-rows';
import type { CaseExhibits } from '../exhibits/exhibits';
import { previewPages, produceArchive, type Archive, type ProducingHost } from './producing';
import type {
  DeskEvent,
  ExhibitView,
  PagePreview,
  Produced,
  ProductionResult
} from '../api/protocol';

/** Lines past which a preview shows one exhibit alone. */
const MOST_PREVIEWED = 2000;

/** Milliseconds after which the engine is readied: what is looked at goes first. */
const WARM_AFTER = 200;

/** A later question took the place of an earlier one. */
class Superseded extends Error {}

/** What the room needs of the case that it works for. */
export interface RoomHost {
  parts: () => Promise<OpenedParts>;
  exhibits: () => CaseExhibits;
  /** A file of a source at any nesting; null where its bytes are not at hand. */
  file: (source: string, path: string) => Promise<ByteSource | null>;
  tell: (event: DeskEvent) => void;
  /** Records were produced. */
  produced: (made: number) => Promise<void>;
}

/** What the page asks about records that are to be handed over. */
export interface ProductionApi extends ProxyMarked {
  /** The printed pages of the exhibits, as they will come out; null where a later question took their place. */
  preview(settings: Settings, exhibit: string): Promise<PagePreview | null>;
  /** Into a folder where one is given, else as one archive. */
  produce(settings: Settings, below: FileSystemDirectoryHandle | null): Promise<Produced>;
  /** Makes an earlier production again; where nothing of it changed in the case, the same bytes. */
  repeat(productionId: string): Promise<ProductionResult>;
  stop(): void;
}

/** Shows the pages of the exhibits, produces them, and remembers what was produced. */
export class ProductionRoom implements ProductionApi {
  readonly [proxyMarker] = true as const;
  private producing: AbortController | null = null;
  private previewing: AbortController | null = null;

  constructor(private readonly host: RoomHost) {}

  async view(): Promise<ExhibitView> {
    const exhibits = this.host.exhibits();
    const parts = await this.host.parts();
    const zone = (await exhibits.settings())?.zone ?? parts.record.zone;
    const reader = await this.readerOf(parts, zone);
    await exhibits.settled();
    return reader.view(exhibits.lists, exhibits.redactions);
  }

  /** @param zone in which days to which exhibits are trimmed begin and end */
  private async readerOf(parts: OpenedParts, zone: string): Promise<ExhibitReader> {
    const { index, naming, files, attachments } = parts;
    const lines = await index.briefs(lineIds(this.host.exhibits().lists));
    return new ExhibitReader(index, naming, new ZonedTime(zone), files, attachments, lines);
  }

  async preview(settings: Settings, entry: string): Promise<PagePreview | null> {
    this.previewing?.abort(new Superseded());
    const { signal } = (this.previewing = new AbortController());
    try {
      const parts = await this.host.parts();
      // A long record is shown from the exhibit that is looked at.
      const only = this.host.exhibits().chosen.size > MOST_PREVIEWED ? entry : null;
      const asked = await this.asked(settings, parts, only);
      const input = await productionInput(partsOf(parts), asked.exhibits, asked.redactions);
      const bench = { made: Date.now(), open: this.opener(parts), rebuild: null, log: [], signal };
      return await previewPages(input, asked, bench);
    } catch (error) {
      if (error instanceof Superseded) return null;
      throw error;
    } finally {
      if (this.previewing?.signal === signal) this.previewing = null;
    }
  }

  private isWarm = false;

  /** Readies the engine once there is something to set, so that the first preview comes as fast as the next. */
  warm(): void {
    const { chosen } = this.host.exhibits();
    if (this.isWarm || chosen.size === 0 || chosen.size > MOST_PREVIEWED) return;
    this.isWarm = true;
    setTimeout(() => void this.setOnce(), WARM_AFTER);
  }

  private async setOnce(): Promise<void> {
    if (this.previewing) return;
    const kept = await this.host.exhibits().settings();
    const settings = kept ?? settingsSchema.parse({ formats: ['pdf'] });
    // What is wrong is told when a preview is asked for.
    await this.preview(settings, '').catch(() => null);
  }

  /** Into a folder where one is given, else as one archive. */
  async produce(settings: Settings, below: FileSystemDirectoryHandle | null): Promise<Produced> {
    try {
      return await this.produceNow(settings, below);
    } catch (error) {
      if (error instanceof UndecidedError) return { undecided: [...error.files] };
      throw error;
    }
  }

  private async produceNow(
    settings: Settings,
    below: FileSystemDirectoryHandle | null
  ): Promise<ProductionResult> {
    const parts = await this.host.parts();
    const asked = await this.asked(settings, parts, null);
    const log = await custodyLog(parts.record.id);
    const { archive, made } = await this.run(asked, parts, { log, made: Date.now() }, below);
    const record = recordOf(archive, asked, made, parts, log.length);
    await (await openStorage()).put('productions', record);
    const { sha256, formats, lines, threads, first, last, bytes } = record;
    const { redactions } = asked;
    await logAct(parts.record.id, 'records produced', {
      package: archive.name,
      sha256,
      bytes,
      formats,
      lines,
      threads,
      first: first ?? null,
      last: last ?? null,
      redactions: redactions.length
    });
    await this.host.produced(record.made);
    return { record, name: archive.name, zip: archive.zip, isSame: null };
  }

  /** Makes an earlier production again; where nothing of it changed in the case, the same bytes. */
  async repeat(productionId: string): Promise<ProductionResult> {
    const record = await (await openStorage()).get('productions', productionId);
    if (!record?.settings?.exhibits)
      throw new Error(
        'This production was made by an earlier version, which did not keep its settings.'
      );
    const parts = await this.host.parts();
    const log = (await custodyLog(parts.record.id)).slice(0, record.logged ?? 0);
    const { archive } = await this.run(record.settings, parts, { log, made: record.made }, null);
    const isSame = archive.summary.sha256 === record.sha256;
    await logAct(parts.record.id, 'records produced again', {
      package: archive.name,
      sha256: archive.summary.sha256,
      same: isSame
    });
    return { record, name: archive.name, zip: archive.zip, isSame };
  }

  stop(): void {
    this.producing?.abort(new Error('The production was stopped.'));
  }

  private async run(
    settings: Settings,
    parts: OpenedParts,
    { log, made }: Pick<ProducingHost, 'log' | 'made'>,
    below: FileSystemDirectoryHandle | null
  ): Promise<{ archive: Archive; made: number }> {
    const { signal } = (this.producing = new AbortController());
    try {
      const input = await productionInput(
        partsOf(parts),
        settings.exhibits ?? [],
        settings.redactions
      );
      const rebuild = settings.formats.includes('database')
        ? await this.rebuilder(parts, made)
        : null;
      const bench = { made, open: this.opener(parts), rebuild, log, signal };
      const archive = await produceArchive(input, settings, bench, below, (what, done, total) =>
        this.host.tell({ type: 'producing', what, done, total })
      );
      return { archive, made };
    } finally {
      this.producing = null;
    }
  }

  /** Settings with the exhibits and redactions of the case. */
  private async asked(
    settings: Settings,
    parts: OpenedParts,
    only: string | null
  ): Promise<Settings & { exhibits: Exhibit[] }> {
    await this.host.exhibits().settled();
    const { lists, redactions, reasons, letGo } = this.host.exhibits();
    const exhibits = (await this.readerOf(parts, settings.zone ?? parts.record.zone)).settings(
      lists,
      only
    );
    if (exhibits.length === 0) throw new Error('Nothing is on the exhibit list.');
    const there = await this.redactable(parts, redactions);
    const { choose } = settings;
    return {
      ...settings,
      choose: { context: 0, gaps: choose.gaps, states: choose.states },
      exhibits,
      redactions: redactions.filter(there),
      reasons,
      decisions: letGo.map((attachment) => ({ attachment, goesAlong: true as const }))
    };
  }

  /** What is redacted of a source that was removed is not there to be covered. */
  private async redactable(
    { index, attachments, files }: OpenedParts,
    redactions: readonly Redaction[]
  ): Promise<(redaction: Redaction) => boolean> {
    const covered = redactions.flatMap((one) => ('message' in one ? [one.message] : []));
    const places = await index.locate(covered);
    const listed = new Set(files.map(({ id }) => id));
    return (redaction) => {
      if ('person' in redaction) return index.people.has(redaction.person);
      if ('attachment' in redaction)
        return attachments.has(redaction.attachment) || listed.has(redaction.attachment);
      return !('message' in redaction) || places.has(redaction.message);
    };
  }

  /** The bytes of a file by their checksum, from whichever source has them; null where they are not in this browser. */
  private opener({ attachments, files }: OpenedParts): ProducingHost['open'] {
    const places = new Map<string, { source: string; path: string }[]>();
    const put = (sha256: string | null, source: string, path: string | null): void => {
      if (sha256 === null || path === null) return;
      places.set(sha256, [...(places.get(sha256) ?? []), { source, path }]);
    };
    for (const { attachment } of attachments.values())
      put(attachment.sha256, attachment.byHand ?? sourceIn(attachment.id), attachment.path);
    for (const { sha256, source, path } of files) put(sha256, source, path);
    return async (sha256) => {
      let refused: unknown = null;
      for (const { source, path } of places.get(sha256) ?? [])
        try {
          const file = await this.host.file(source, path);
          if (file) return Uint8Array.from(file.read(0, file.size));
        } catch (error) {
          // Another source may hold the same bytes; where none does, it is said why.
          refused ??= error;
        }
      if (refused !== null) throw refused;
      return null;
    };
  }

  /** A store of a source with the chosen messages that were recovered from it put back. */
  async rebuilt(sourceId: string): Promise<Uint8Array> {
    const parts = await this.host.parts();
    const { chosen } = this.host.exhibits();
    const { index } = parts;
    const places = (await index.locate(chosen)).values();
    const lines = (await index.heldAll(places)).map(({ message }) => message);
    const evidence = await this.evidence(parts, Date.now());
    const stores = evidence.stores.filter(({ source }) => source === sourceId);
    for await (const { rebuilt } of rebuiltStores({ ...evidence, stores }, lines))
      if (typeof rebuilt !== 'string' && rebuilt.put > 0) return rebuilt.bytes;
    throw new Error(
      'No selected message was recovered in full from this copy. Select some in Read.'
    );
  }

  private async rebuilder(parts: OpenedParts, made: number): Promise<Rebuilder> {
    return storeRebuilder(await this.evidence(parts, made));
  }

  private async evidence({ sources }: OpenedParts, made: number): Promise<Evidence> {
    return {
      stores: sources.flatMap(({ id, name, stores }) =>
        stores.map(({ path }) => ({ source: id, sourceName: name, path }))
      ),
      open: (source, path) => this.host.file(source, path),
      missing: (path, name) => new Error(`${path} of ${name} is not kept in this browser.`),
      sql: await initSqlJs({ locateFile: () => sqlUrl }),
      made,
      version
    };
  }
}

/** Ids of all lines that exhibits name. */
function lineIds({ lists }: ExhibitLists): string[] {
  return lists.flatMap(({ entries }) =>
    entries.flatMap(({ kind, ids }) => (kind === 'lines' ? ids : []))
  );
}

function recordOf(
  { bytes, summary }: Archive,
  settings: Settings,
  made: number,
  { record }: OpenedParts,
  logged: number
): ProductionRecord {
  return {
    id: crypto.randomUUID(),
    caseId: record.id,
    made,
    formats: settings.formats,
    zone: settings.zone ?? record.zone,
    lines: summary.messages,
    threads: summary.threads,
    sha256: summary.sha256,
    bytes,
    pages: summary.pages,
    first: summary.first,
    last: summary.last,
    // A password is nobody else's: it is not kept.
    settings: { ...settings, pdf: { ...settings.pdf, password: null } },
    isLocked: settings.pdf.password !== null,
    logged
  };
}
