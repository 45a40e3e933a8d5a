import type { BriefLine, CaseIndex, KeptAttachment, Naming } from '$core/case';
import { currentList, inOrder, type ExhibitEntry, type ExhibitLists } from '$core/exhibits';
import type { Exhibit, Redaction } from '$core/produce';
import { gapId, type FileRecord } from '$core/records';
import { momentIn, type ZonedTime } from '$core/shown';
import type { ExhibitRow, ExhibitView } from '../api/protocol';

/** What an exhibit holds, as far as the case still has it. */
interface Content {
  lines: BriefLine[];
  moments: number[];
  notLive: number;
  files: { sha256: string | null; bytes: number | null }[];
  count: number;
}

/** Reads exhibits against what the case holds. */
export class ExhibitReader {
  private readonly calls;
  private readonly contacts;
  private readonly gaps;
  private readonly files: ReadonlyMap<string, FileRecord>;

  constructor(
    private readonly index: CaseIndex,
    private readonly naming: Naming,
    private readonly time: ZonedTime,
    files: readonly FileRecord[],
    private readonly attachments: ReadonlyMap<string, KeptAttachment>,
    /** The lines that exhibits name, each as what is shown for it. */
    private readonly lines: ReadonlyMap<string, BriefLine>
  ) {
    this.calls = new Map(index.calls.map((call) => [call.id, call]));
    this.contacts = new Map(index.contacts.map((contact) => [contact.id, contact]));
    this.gaps = new Map(index.gaps.map(({ gap }) => [gapId(gap), gap]));
    this.files = new Map(files.map((file) => [file.id, file]));
  }

  view(lists: ExhibitLists, redactions: readonly Redaction[]): ExhibitView {
    const list = currentList(lists);
    const rows = this.ordered(lists).map((entry) => this.row(entry, redactions));
    return {
      lists: lists.lists.map(({ id, name, entries }) => ({ id, name, exhibits: entries.length })),
      current: list.id,
      order: list.order,
      rows,
      lines: rows.reduce((sum, row) => sum + (row.kind === 'lines' ? row.count : 0), 0),
      files: rows.reduce((sum, row) => sum + row.files, 0),
      bytes: rows.reduce((sum, row) => sum + row.bytes, 0)
    };
  }

  private ordered(lists: ExhibitLists): ExhibitEntry[] {
    return inOrder(currentList(lists), (entry) => this.content(entry).moments[0] ?? null);
  }

  /** The list in use as settings of a production name it; parts that the case has lost are left out. */
  settings(lists: ExhibitLists, only: string | null): Exhibit[] {
    return this.ordered(lists)
      .filter(({ id }) => only === null || id === only)
      .flatMap((entry): Exhibit[] => {
        const { kind, name } = entry;
        const ids = this.idsOf(entry);
        if (ids.length === 0) return [];
        switch (kind) {
          case 'lines':
            return [{ kind, name, messages: ids, context: entry.context }];
          case 'calls':
            return [{ kind, name, calls: ids }];
          case 'contacts':
            return [{ kind, name, contacts: ids }];
          case 'files':
            return [{ kind, name, files: ids }];
          case 'gaps':
            return [{ kind, name, gaps: ids }];
        }
      });
  }

  private idsOf(entry: ExhibitEntry): string[] {
    switch (entry.kind) {
      case 'lines':
        return this.linesOf(entry).map(({ id }) => id);
      case 'calls':
        return entry.ids.filter((id) => this.calls.has(id));
      case 'contacts':
        return entry.ids.filter((id) => this.contacts.has(id));
      case 'files':
        return entry.ids.filter((id) => this.fileOf(id) !== undefined);
      case 'gaps':
        return entry.ids.filter((id) => this.gaps.has(id));
    }
  }

  private fileOf(id: string): Content['files'][number] | undefined {
    return this.attachments.get(id)?.attachment ?? this.files.get(id);
  }

  /** Lines of an exhibit in the order of time, trimmed to its days. */
  private linesOf({ ids, from, to }: ExhibitEntry): BriefLine[] {
    const { zone } = this.time;
    const first = from === null ? -Infinity : momentIn(from, zone, 'first');
    const last = to === null ? Infinity : momentIn(to, zone, 'last');
    const isOpen = from === null && to === null;
    const known = ids.flatMap((id) => this.lines.get(id) ?? []);
    return [...new Map(known.map((line) => [line.id, line])).values()]
      .filter(({ sentAt }) => (sentAt === null ? isOpen : sentAt >= first && sentAt <= last))
      .sort((a, b) => (a.sentAt ?? Infinity) - (b.sentAt ?? Infinity));
  }

  private content(entry: ExhibitEntry): Content {
    const notLive = (records: { state: string }[]): number =>
      records.filter(({ state }) => state !== 'live').length;
    const times = (all: (number | null)[]): number[] =>
      all.filter((at) => at !== null).sort((a, b) => a - b);
    const none = { lines: [], moments: [], notLive: 0, files: [] };
    switch (entry.kind) {
      case 'lines': {
        const lines = this.linesOf(entry);
        return {
          lines,
          moments: times(lines.map(({ sentAt }) => sentAt)),
          notLive: notLive(lines),
          files: lines.flatMap(({ attachments }) =>
            attachments.flatMap((id) => this.attachments.get(id)?.attachment ?? [])
          ),
          count: lines.length
        };
      }
      case 'calls': {
        const calls = entry.ids.flatMap((id) => this.calls.get(id) ?? []);
        const moments = times(calls.map(({ at }) => at));
        return { ...none, moments, notLive: notLive(calls), count: calls.length };
      }
      case 'contacts': {
        const contacts = entry.ids.flatMap((id) => this.contacts.get(id) ?? []);
        return { ...none, notLive: notLive(contacts), count: contacts.length };
      }
      case 'files': {
        const files = entry.ids.flatMap((id) => this.fileOf(id) ?? []);
        return { ...none, files, count: files.length };
      }
      case 'gaps': {
        const gaps = entry.ids.flatMap((id) => this.gaps.get(id) ?? []);
        return {
          ...none,
          moments: times(gaps.map(({ from, to }) => from ?? to)),
          count: gaps.length
        };
      }
    }
  }

  private row(entry: ExhibitEntry, redactions: readonly Redaction[]): ExhibitRow {
    const content = this.content(entry);
    const { lines, moments } = content;
    const group = lines[0] && this.index.correspondentOf(lines[0].thread);
    const known = content.files.filter(({ sha256 }) => sha256 !== null);
    return {
      id: entry.id,
      kind: entry.kind,
      name: entry.name ?? (group ? this.naming.correspondent(group) : TITLES[entry.kind]),
      isNamed: entry.name !== null,
      count: content.count,
      of: group ? group.summary.count : null,
      notLive: content.notLive,
      redacted: redactedIn(lines, redactions),
      files: known.length,
      bytes: known.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
      span: moments.length === 0 ? '' : this.spanText(moments[0]!, moments[moments.length - 1]!),
      firstDay: moments.length === 0 ? null : this.time.split(moments[0]!).date,
      lastDay: moments.length === 0 ? null : this.time.split(moments[moments.length - 1]!).date,
      from: entry.from,
      to: entry.to,
      context: entry.context,
      isClosed: entry.isClosed,
      first: lines[0] && group ? { correspondent: group.id, message: lines[0].id } : null
    };
  }

  private spanText(from: number, to: number): string {
    const [a, b] = [this.time.split(from), this.time.split(to)];
    const start = `${a.date} ${a.time.slice(0, 5)}`;
    if (from === to) return start;
    return a.date === b.date
      ? `${start} to ${b.time.slice(0, 5)}`
      : `${start} to ${b.date} ${b.time.slice(0, 5)}`;
  }
}

const TITLES: Record<ExhibitEntry['kind'], string> = {
  lines: 'Lines that the case no longer holds',
  calls: 'Calls',
  contacts: 'Contacts',
  files: 'Files',
  gaps: 'Messages that are missing'
};

/** Redactions that are made in these lines and their files. */
function redactedIn(lines: readonly BriefLine[], redactions: readonly Redaction[]): number {
  const ids = new Set(lines.flatMap(({ id, attachments }) => [id, ...attachments]));
  return redactions.filter(
    (one) =>
      ('message' in one && ids.has(one.message)) || ('attachment' in one && ids.has(one.attachment))
  ).length;
}
