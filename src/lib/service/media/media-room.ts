import { Recent, type CaseIndex, type Naming } from '$core/case';
import { proxyMarker } from 'comlink';
import mime from 'mime';
import { CHUNK } from '$core/case/lines';
import { mimeOf } from '$core/examine';
import { extraAt, fileKindOf, idAt, type FileKind } from '$core/records';
import type { ZonedTime } from '$core/shown';
import { typeOf } from '$core/produce';
import type { ByteSource } from '$core/host';
import type { Facets } from '../lines/facets';
import { fingerprint, standingFor } from './lookalikes';
import type {
  FileFacts,
  FilePlace,
  MediaApi,
  MediaDay,
  MediaFilter,
  MediaRow,
  MediaSheet,
  PlacedLine,
  Preview
} from '../api/media-api';
import { factsOfPicture } from './picture-facts';
import { previewOf } from './previews';
import type { NotesRoom } from '../notes/notes-room';
import type { DeskEvent, FileRow } from '../api/protocol';
import { sha256 } from '../host/hash';

/** Longer side of a small picture, in pixels. */
const SMALL = 240;
const MOST_SMALL = 1500;
/** Bytes past which a file is not read whole to be shown. */
const MOST_SHOWN = 512 * 1024 * 1024;
const SEEN: readonly FileKind[] = ['picture', 'video', 'sound'];
const TOLD_EVERY = 200;
/** Pictures that are decoded at a time. */
const AT_ONCE = 6;

interface MediaHost {
  index(): CaseIndex;
  naming(): Naming;
  time(): ZonedTime;
  facets(): Promise<Facets>;
  notes(): Pick<NotesRoom, 'labelled' | 'matching' | 'version'>;
  file(sourceId: string, path: string): Promise<ByteSource | null>;
  tell(event: DeskEvent): void;
  /** A picture or recording as browsers know it. */
  asShown(bytes: Uint8Array<ArrayBuffer>): Promise<Blob>;
}

/** Files of a case as things to be seen and heard. */
export class MediaRoom implements MediaApi {
  readonly [proxyMarker] = true as const;
  private readonly smalls = new Recent<Blob | null>(MOST_SMALL);
  /** Fingerprints of pictures by their keys; null where a picture cannot be read. */
  private readonly prints = new Map<string, [number, number] | null>();
  private last: { key: string; facets: Facets; rows: Promise<MediaRow[]> } | null = null;
  private withWhom: { index: CaseIndex; map: Promise<ReadonlyMap<string, string>> } | null = null;
  private turn = 0;

  constructor(private readonly host: MediaHost) {}

  async sheet(filter: MediaFilter): Promise<MediaSheet> {
    const rows = await this.matching(filter);
    const all = await this.all();
    const kinds: MediaSheet['kinds'] = {};
    const people = new Map<string, number>();
    for (const row of all) {
      kinds[row.kind] = (kinds[row.kind] ?? 0) + 1;
      if (row.person !== '') people.set(row.person, (people.get(row.person) ?? 0) + 1);
    }
    const pictures = all.filter(({ kind, missing }) => kind === 'picture' && !missing);
    return {
      total: rows.length,
      days: daysOf(rows),
      kinds,
      people: [...people]
        .map(([id, count]) => ({ id, name: this.nameOf(id), count }))
        .sort((a, b) => b.count - a.count),
      compared: pictures.filter(({ key }) => this.prints.has(key)).length,
      pictures: pictures.length
    };
  }

  private nameOf(id: string): string {
    const row = this.host.index().conversation(id);
    return row ? this.host.naming().correspondent(row) : id;
  }

  async rows(filter: MediaFilter, from: number, to: number): Promise<MediaRow[]> {
    const rows = (await this.matching(filter)).slice(from, to);
    const facets = await this.host.facets();
    return rows.map((row) =>
      facets.noted({ ...row, person: row.person && this.nameOf(row.person) })
    );
  }

  async keys(filter: MediaFilter, from: number, to: number): Promise<string[]> {
    return (await this.matching(filter)).slice(from, to).map(({ key }) => key);
  }

  private async matching(filter: MediaFilter): Promise<MediaRow[]> {
    const facets = await this.host.facets();
    const prints = filter.alike === null ? 0 : this.prints.size;
    const key = JSON.stringify([filter, prints, this.host.notes().version]);
    if (this.last?.key !== key || this.last.facets !== facets)
      this.last = { key, facets, rows: this.match(filter) };
    return this.last.rows;
  }

  private async match(filter: MediaFilter): Promise<MediaRow[]> {
    const notes = this.host.notes();
    const wanted = filter.query.trim();
    const told = new Set(wanted === '' ? [] : notes.matching(wanted));
    const labelled = filter.label === null ? null : new Set(notes.labelled(filter.label));
    const rows = (await this.all()).filter(
      (row) => passes(row, filter, told) && (labelled?.has(row.key) ?? true)
    );
    return filter.alike === null ? rows : this.folded(rows, filter.alike);
  }

  /** Pictures that look alike as one. */
  private folded(rows: readonly MediaRow[], most: number): MediaRow[] {
    const known = rows.flatMap(({ key }) => {
      const print = this.prints.get(key);
      return print ? [{ key, print }] : [];
    });
    const standsFor = standingFor(known, most);
    const counts = new Map<string, number>();
    for (const first of standsFor.values()) counts.set(first, (counts.get(first) ?? 0) + 1);
    return rows
      .filter(({ key }) => !standsFor.has(key))
      .map((row) => ({ ...row, alike: counts.get(row.key) ?? 0 }));
  }

  /** All that is seen and heard, with whom it was exchanged. */
  private async all(): Promise<MediaRow[]> {
    const facets = await this.host.facets();
    const whom = await this.whom(facets.seen());
    return facets.seen().map((row) => ({
      ...row,
      kind: fileKindOf(row),
      person: row.messages.map((id) => whom.get(id)).find((id) => id !== undefined) ?? '',
      alike: 0
    }));
  }

  /** The correspondents of messages that carry files. */
  private whom(rows: readonly FileRow[]): Promise<ReadonlyMap<string, string>> {
    const index = this.host.index();
    if (this.withWhom?.index !== index)
      this.withWhom = { index, map: correspondentsOf(index, rows) };
    return this.withWhom.map;
  }

  small(sourceId: string, path: string): Promise<Blob | null> {
    return this.smalls.get(`${sourceId}/${path}`, async () => {
      const made = await this.bitmap(sourceId, path);
      if (!made) return null;
      const canvas = new OffscreenCanvas(made.width, made.height);
      canvas.getContext('2d')!.drawImage(made, 0, 0);
      made.close();
      return canvas.convertToBlob({ type: 'image/webp', quality: 0.8 });
    });
  }

  /** A picture at a small size; null where it cannot be read. */
  private async bitmap(sourceId: string, path: string): Promise<ImageBitmap | null> {
    const file = await this.host.file(sourceId, path);
    if (!file || file.size === 0 || file.size > MOST_SHOWN) return null;
    const blob = await this.host.asShown(Uint8Array.from(file.read(0, file.size)));
    try {
      return await createImageBitmap(blob, { resizeWidth: SMALL, resizeQuality: 'medium' });
    } catch (error) {
      // What no decoder reads has no small picture.
      if (error instanceof DOMException) return null;
      throw error;
    }
  }

  async compare(): Promise<boolean> {
    const turn = ++this.turn;
    const pictures = (await this.all()).filter(
      ({ kind, missing }) => kind === 'picture' && !missing
    );
    const rest = pictures.filter(({ key }) => !this.prints.has(key));
    const done = (): number => pictures.length - rest.length;
    let told = 0;
    const work = async (): Promise<void> => {
      for (let row = rest.pop(); row && turn === this.turn; row = rest.pop()) {
        this.prints.set(row.key, await this.printOf(row));
        if (Date.now() - told < TOLD_EVERY) continue;
        told = Date.now();
        this.host.tell({ type: 'comparing', done: done(), total: pictures.length });
      }
    };
    // The browser decodes several pictures at a time, beside this worker.
    await Promise.all(Array.from({ length: AT_ONCE }, work));
    if (turn !== this.turn) return false;
    this.host.tell({ type: 'comparing', done: pictures.length, total: pictures.length });
    return true;
  }

  private async printOf({ sourceId, path }: FileRow): Promise<[number, number] | null> {
    const made = await this.bitmap(sourceId, path);
    if (!made) return null;
    const context = new OffscreenCanvas(64, 64).getContext('2d')!;
    context.drawImage(made, 0, 0, 64, 64);
    made.close();
    return fingerprint(context.getImageData(0, 0, 64, 64));
  }

  async preview({ sourceId, path, name }: FilePlace): Promise<Preview> {
    const none = (reason: string): Preview => ({ kind: 'none', reason, head: new Uint8Array(0) });
    const file = await this.host.file(sourceId, path);
    if (!file) return none('its bytes are not in the source, or its key must be entered again.');
    if (file.size > MOST_SHOWN) return none('it is too large to be shown; it can be saved.');
    const bytes = Uint8Array.from(file.read(0, file.size));
    const type = typeOf(bytes) ?? (await mimeOf(bytes)) ?? mime.getType(name);
    return previewOf(bytes, name, type, (own) => this.host.asShown(own));
  }

  async facts({ sourceId, path, name }: FilePlace): Promise<FileFacts> {
    const facets = await this.host.facets();
    const row = facets.rowAt(sourceId, path);
    const file = await this.host.file(sourceId, path);
    const isRead = file !== null && file.size <= MOST_SHOWN;
    const bytes = isRead ? Uint8Array.from(file.read(0, file.size)) : null;
    const picture = bytes && (await factsOfPicture(bytes));
    return {
      bytes: file?.size ?? row?.bytes ?? null,
      sha256: row?.sha256 ?? (bytes && (await sha256(bytes))),
      byContent: bytes && (typeOf(bytes) ?? (await mimeOf(bytes.subarray(0, 4100)))),
      byName: mime.getType(name) ?? mime.getType(path),
      camera: picture?.camera ?? null,
      takenAt: picture?.takenAt ?? null,
      place: picture?.place ?? null,
      source: row?.source ?? facets.sourceName(sourceId),
      path,
      key: row?.key ?? null,
      lines: await this.linesOf(row?.messages ?? []),
      copies: row?.copies ?? 0
    };
  }

  async candidates(attachment: string, query: string): Promise<FileRow[]> {
    const known = (await this.host.index().attachments()).get(attachment);
    return known ? (await this.host.facets()).candidates(known.attachment, query) : [];
  }

  private async linesOf(messages: readonly string[]): Promise<FileFacts['lines']> {
    const index = this.host.index();
    const time = this.host.time();
    // Lines that two stores hold are shown as one.
    const shown = new Map(
      [...(await index.briefs(messages)).values()].map((line) => [line.id, line])
    );
    return [...shown.values()].map(({ id, thread, line, sentAt }) => {
      const row = index.correspondentOf(thread);
      return {
        line,
        with: row ? this.host.naming().correspondent(row) : 'unknown contact',
        correspondent: row?.id ?? '',
        message: id,
        at: sentAt === null ? 'time unknown' : time.full(sentAt)
      };
    });
  }

  async places(correspondent: string): Promise<PlacedLine[]> {
    const index = this.host.index();
    const { store, row } = await index.rows(correspondent);
    const found: PlacedLine[] = [];
    for (let at = 0; at < row.length; at++) {
      const lines = index.stores[store[at]!]!;
      const own = row[at]!;
      const texts = await lines.texts(Math.floor(own / CHUNK));
      const { location } = extraAt(texts, own % CHUNK);
      if (!location) continue;
      const sentAt = lines.columns.sentAt[own]!;
      found.push({
        message: idAt(texts, own % CHUNK),
        line: lines.columns.line[own]!,
        lat: location.lat,
        lon: location.lon,
        label: location.label,
        at: Number.isNaN(sentAt) ? 'time unknown' : this.host.time().full(sentAt)
      });
    }
    return found;
  }
}

function passes(row: MediaRow, filter: MediaFilter, noted: ReadonlySet<string>): boolean {
  const { query, kinds, person, state, message, least } = filter;
  const wanted = query.trim().toLowerCase();
  return (
    SEEN.includes(row.kind) &&
    (kinds.length === 0 || kinds.includes(row.kind)) &&
    (person === null || row.person === person) &&
    (state === 'all' || (row.state === 'live') === (state === 'live')) &&
    (message === 'all' || row.messages.length > 0 === (message === 'with')) &&
    (least === 0 || (row.bytes ?? 0) >= least) &&
    (wanted === '' || row.path.toLowerCase().includes(wanted) || noted.has(row.key))
  );
}

function daysOf(rows: readonly MediaRow[]): MediaDay[] {
  const days: MediaDay[] = [];
  rows.forEach(({ day }, at) => {
    const last = days.at(-1);
    if (last?.day === day) last.count++;
    else days.push({ day, from: at, count: 1 });
  });
  return days;
}

async function correspondentsOf(
  index: CaseIndex,
  rows: readonly FileRow[]
): Promise<ReadonlyMap<string, string>> {
  const whom = new Map<string, string>();
  for (const [id, place] of await index.locate(rows.flatMap(({ messages }) => messages))) {
    const row = index.correspondentOf(index.threadOf(place));
    if (row) whom.set(id, row.id);
  }
  return whom;
}
