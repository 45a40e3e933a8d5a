import type { CaseIndex, KeptAttachment, Naming, PlacedGap } from '$core/case';
import { ZonedTime } from '$core/shown';
import {
  fileKindOf,
  gapId,
  mostPresent,
  OWNER,
  sourceIn,
  type Attachment,
  type Call,
  type Contact,
  type FileKind,
  type FileRecord
} from '$core/records';
import type { SourceRecord } from '../../storage/schema';
import type { NotesRoom } from '../notes/notes-room';
import type {
  CallRow,
  ContactRow,
  FacetCounts,
  FileFacet,
  FilePage,
  FileRow,
  GapRow
} from '../api/protocol';
import { pathMatcher } from './name-pattern';

const NO_NOTES: Pick<NotesRoom, 'onFile' | 'matching'> = {
  onFile: () => ({ note: '', labels: [] }),
  matching: () => []
};

/** Answers for everything in a case that is no message. */
export class Facets {
  /** In time, and by path. */
  private readonly rows: FileRow[];
  private readonly byPath: FileRow[];
  /** The row of each file, by source and path. */
  private readonly listed = new Map<string, FileRow>();
  private readonly sourceNames: ReadonlyMap<string, string>;

  constructor(
    private readonly index: CaseIndex,
    private readonly naming: Naming,
    private readonly time: ZonedTime,
    sources: readonly SourceRecord[],
    files: readonly FileRecord[],
    attachments: Iterable<KeptAttachment>,
    private readonly notes: Pick<NotesRoom, 'onFile' | 'matching'> = NO_NOTES
  ) {
    this.sourceNames = new Map(sources.map(({ id, name }) => [id, name]));
    this.rows = this.merge(files, attachments);
    this.byPath = [...this.rows].sort(
      (a, b) => a.source.localeCompare(b.source) || a.path.localeCompare(b.path)
    );
  }

  counts(): FacetCounts {
    const messages = this.index.counts();
    const of = (records: Iterable<{ state: string }>): { live: number; notLive: number } => {
      let [live, notLive] = [0, 0];
      for (const { state } of records)
        if (state === 'live') live++;
        else notLive++;
      return { live, notLive };
    };
    const { live } = messages;
    const all = Object.values(messages).reduce((sum, n) => sum + n, 0);
    return {
      messages: { live, notLive: all - live },
      calls: of(this.distinctCalls()),
      contacts: of(this.index.contacts),
      people: { live: this.individuals(), notLive: 0 },
      media: of(this.rows.filter((row) => belongs(row, 'media'))),
      documents: of(this.rows.filter((row) => belongs(row, 'documents'))),
      files: of(this.rows),
      gaps: { live: this.index.gaps.length, notLive: 0 }
    };
  }

  /** Addresses that are one person's count once. */
  private individuals(): number {
    const { people, individuals } = this.index;
    const others = [...people.keys()].filter((id) => (individuals.get(id)?.id ?? id) !== OWNER);
    return new Set(others.map((id) => individuals.get(id)?.id ?? id)).size;
  }

  calls(): CallRow[] {
    return this.distinctCalls().map((call) => this.call(call));
  }

  /** Copies of one call log tell the same calls; what is live stands before what was recovered. */
  private distinctCalls(): Call[] {
    const known = new Map<string, Call>();
    for (const call of this.index.calls) {
      const { id, at, person, direction, seconds } = call;
      const key = at === null ? id : JSON.stringify([at, person, direction, seconds]);
      const other = known.get(key);
      if (!other || (other.state !== 'live' && call.state === 'live')) known.set(key, call);
    }
    return [...known.values()].sort((a, b) => (a.at ?? Infinity) - (b.at ?? Infinity));
  }

  private call({ id, state, person, direction, at, seconds, certainty, store }: Call): CallRow {
    const split = at === null ? null : this.time.split(at);
    return {
      id,
      state,
      name: this.naming.person(person),
      address: this.naming.shown(person),
      direction,
      day: split?.date ?? 'unknown',
      time: split?.time ?? '',
      seconds,
      certainty,
      source: this.sourceOf(store)
    };
  }

  contacts(): ContactRow[] {
    return this.index.contacts
      .map((contact: Contact): ContactRow => {
        const { id, state, name, phones, emails, organisation, note, store } = contact;
        const source = this.sourceOf(store);
        return { id, state, name: name ?? 'no name', phones, emails, organisation, note, source };
      })
      .sort((a, b) => a.name.localeCompare(b.name));
  }

  /** What is missing, in time. */
  gaps(): GapRow[] {
    const startOf = ({ gap: { from, to } }: PlacedGap): number => from ?? to ?? Infinity;
    return [...this.index.gaps]
      .sort((a, b) => startOf(a) - startOf(b))
      .map((placed) => this.gap(placed));
  }

  private gap({ gap, before, after }: PlacedGap): GapRow {
    const { thread, store, count, from, to, reason } = gap;
    const id = gapId(gap);
    const shown = (at: number | null): string => (at === null ? 'unknown' : this.time.full(at));
    const row = thread === null ? undefined : this.index.correspondentOf(thread);
    const message = before ? gap.before : gap.after;
    const side = before ?? after;
    const near = side && this.index.correspondentOf(side.thread);
    return {
      key: id,
      count,
      name: row ? this.naming.correspondent(row) : null,
      from: shown(from),
      to: shown(to),
      goTo: message !== null && near ? { correspondent: near.id, message } : null,
      reason,
      source: this.sourceOf(store)
    };
  }

  private sourceOf(store: string): string {
    return this.sourceNames.get(sourceIn(store)) ?? store;
  }

  files(facet: FileFacet, query: string, from: number, to: number): FilePage {
    const wanted = query.trim().toLowerCase();
    const all = facet === 'files' ? this.byPath : this.rows;
    const noted = new Set(wanted === '' ? [] : this.notes.matching(wanted));
    const matches = pathMatcher(wanted);
    const rows = all.filter(
      (row) =>
        (facet === 'files' || belongs(row, facet)) &&
        (wanted === '' || matches(row.path) || noted.has(row.key))
    );
    return { total: rows.length, rows: rows.slice(from, to).map((row) => this.noted(row)) };
  }

  /** The row with what is noted of it by now. */
  noted<Row extends FileRow>(row: Row): Row {
    return { ...row, ...this.notes.onFile(row.key) };
  }

  /** Files of the listing, and attachments that name a file which is not in it; the same bytes are one row. */
  private merge(files: readonly FileRecord[], attachments: Iterable<KeptAttachment>): FileRow[] {
    const rows = new Map<string, FileRow>();
    for (const file of files) {
      const row = this.fileRow(file);
      this.listed.set(`${row.sourceId}/${row.path}`, this.put(rows, row));
    }
    for (const attachment of attachments) this.take(attachment, rows);
    return [...rows.values()].sort(
      // What has no time comes last.
      (a, b) => (a.at ?? '~').localeCompare(b.at ?? '~') || a.path.localeCompare(b.path)
    );
  }

  private take(attachment: KeptAttachment, rows: Map<string, FileRow>): void {
    const row = this.attachmentRow(attachment);
    const place = `${row.sourceId}/${row.path}`;
    const known = this.listed.get(place) ?? rows.get(row.sha256 ?? row.key);
    // What becomes of messages becomes of their files: of several messages the one that is nearest to being there counts.
    const isFirst = known === undefined || known.messages.length === 0;
    const other = isFirst ? attachment.state : known.state;
    (known ?? row).state = mostPresent([attachment.state, other]) ?? attachment.state;
    (known ?? row).messages.push(attachment.attachment.message);
    if (!known) {
      this.listed.set(place, this.put(rows, row));
      return;
    }
    if (!this.listed.has(place)) {
      this.listed.set(place, known);
      this.placeOf(row);
    }
    known.thumbnail ??= row.thumbnail;
    // The message tells better than the file system when a picture was sent.
    if (row.at !== null) [known.at, known.day] = [row.at, row.day];
  }

  /** Places by the checksum of what lies there. */
  private readonly places = new Map<string, { sourceId: string; path: string }[]>();

  private placeOf({ sha256, sourceId, path }: FileRow): void {
    if (sha256 === null) return;
    this.places.set(sha256, [...(this.places.get(sha256) ?? []), { sourceId, path }]);
  }

  /** All places that hold the bytes of one, itself first. */
  placesOf(sourceId: string, path: string): { sourceId: string; path: string }[] {
    const sum = this.rowAt(sourceId, path)?.sha256;
    const same = (sum && this.places.get(sum)) || [];
    return [
      { sourceId, path },
      ...same.filter((place) => place.sourceId !== sourceId || place.path !== path)
    ];
  }

  /** The row of a file, which may be that of another place of the same bytes. */
  private put(rows: Map<string, FileRow>, row: FileRow): FileRow {
    const key = row.sha256 ?? row.key;
    const known = rows.get(key);
    this.placeOf(row);
    if (!known) {
      rows.set(key, row);
      return row;
    }
    known.copies++;
    return known;
  }

  /** What is seen and heard, in time. */
  seen(): readonly FileRow[] {
    return (this.seenRows ??= this.rows.filter((row) => belongs(row, 'media')));
  }
  private seenRows: FileRow[] | null = null;

  /** Files that could be the one of an attachment whose bytes are missing, the likeliest first. */
  candidates({ name, path, bytes, mime }: Attachment, query: string): FileRow[] {
    const wanted = query.trim().toLowerCase();
    const named = new Set([name, path].flatMap((one) => (one ? [baseOf(one)] : [])));
    const score = (row: FileRow): number =>
      (named.has(baseOf(row.path)) || named.has(baseOf(row.name)) ? 4 : 0) +
      (bytes !== null && row.bytes === bytes ? 2 : 0) +
      (mime !== null && row.mime === mime ? 1 : 0) +
      (row.messages.length === 0 ? 0.5 : 0);
    return this.rows
      .filter((row) => !row.missing && row.sha256 !== null && !OWN_FILE.test(row.path))
      .filter((row) => wanted === '' || row.path.toLowerCase().includes(wanted))
      .map((row) => ({ row, score: score(row) }))
      .sort((a, b) => b.score - a.score)
      .slice(0, MOST_CANDIDATES)
      .map(({ row }) => this.noted(row));
  }

  rowAt(sourceId: string, path: string): FileRow | undefined {
    return this.listed.get(`${sourceId}/${path}`);
  }

  sourceName(id: string): string {
    return this.sourceNames.get(id) ?? id;
  }

  private fileRow(file: FileRecord): FileRow {
    const at = file.createdAt ?? file.modifiedAt;
    return {
      key: file.id,
      sourceId: file.source,
      source: this.sourceNames.get(file.source) ?? file.source,
      path: file.path,
      name: file.name ?? file.path,
      mime: file.mime,
      bytes: file.bytes,
      sha256: file.sha256,
      state: file.state,
      ...this.moment(at),
      missing: false,
      deletion: file.deletion ?? null,
      thumbnail: null,
      copies: 0,
      messages: [],
      note: '',
      labels: []
    };
  }

  private attachmentRow({ attachment, sentAt }: KeptAttachment): FileRow {
    const { id, path, name, mime, bytes, sha256, state, thumbnail } = attachment;
    const sourceId = attachment.byHand ?? sourceIn(id);
    return {
      key: id,
      sourceId,
      source: this.sourceNames.get(sourceId) ?? sourceId,
      path: path ?? name ?? id,
      name: name ?? 'unnamed',
      mime,
      bytes,
      sha256,
      state,
      ...this.moment(sentAt),
      missing: sha256 === null,
      deletion: null,
      thumbnail: thumbnail ?? null,
      copies: 0,
      messages: [],
      note: '',
      labels: []
    };
  }

  private moment(at: number | null): { at: string | null; day: string } {
    if (at === null) return { at: null, day: 'time unknown' };
    const { date, time } = this.time.split(at);
    return { at: `${date} ${time}`, day: date };
  }
}

/** Files that are offered to be joined to an attachment, at most. */
const MOST_CANDIDATES = 40;

function baseOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1).toLowerCase();
}

const FACETS: Record<FileKind, FileFacet> = {
  picture: 'media',
  video: 'media',
  sound: 'media',
  document: 'documents',
  contact: 'documents',
  other: 'files'
};

/** Lists and settings of a backup, a copy or a program are files, but nobody's documents. */
const OWN_FILE =
  /(^|\/)(SHA(1|256|512)SUMS|MD5SUMS|manifest-\w+\.txt|copy\.json|_manifest)$|(^|\/)(Manifest|Info|Status)\.(plist|db|mbdb|xml)$|\.(plist|mbdb|db|sqlite3?|ini|cfg|log)$/i;

function belongs(row: FileRow, facet: 'media' | 'documents'): boolean {
  if (FACETS[fileKindOf(row)] !== facet) return false;
  return facet === 'media' || !OWN_FILE.test(row.path);
}
