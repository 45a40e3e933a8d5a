import { proxyMarker, type ProxyMarked } from 'comlink';
import { foldText } from '$core/case/lines';
import { logAct } from '../../storage/custody';
import { keepNotes, keptNotes } from '../../storage/notes';
import type { NoteRecord } from '../../storage/schema';
import type { FileNote } from '../api/media-api';
import type { ReadFilter } from '../api/protocol';

export type Note = Pick<NoteRecord, 'of' | 'kind' | 'text' | 'labels'>;

/** What the page asks about notes and labels. */
export interface NotesApi extends ProxyMarked {
  of(id: string): Promise<Note | null>;
  keep(note: Note): Promise<void>;
  /** Puts a label on records, or takes it off; gives how many were changed. */
  label(records: Labelled, label: string, isOn: boolean): Promise<number>;
  /** Labels in use, with how many records have each. */
  labels(): Promise<[label: string, count: number][]>;
}

/** Records that get a label at once: the lines that pass a filter, or the chosen files. */
export type Labelled = { kind: 'line'; filter: ReadFilter } | { kind: 'file' };

interface NotesHost {
  caseId(): string;
  /** Lines that pass a filter, in all conversations. */
  lines(filter: ReadFilter): Promise<string[]>;
  /** Files on the exhibit list in use. */
  chosenFiles(): string[];
  /** Notes have changed. */
  changed(): void;
}

const NO_NOTE: Pick<Note, 'text' | 'labels'> = { text: '', labels: [] };

/** The notes and labels of a case. */
export class NotesRoom implements NotesApi {
  readonly [proxyMarker] = true as const;
  private notes = new Map<string, NoteRecord>();
  /** Counts changes: what was read with notes is stale when it has grown. */
  version = 0;

  constructor(private readonly host: NotesHost) {}

  async load(): Promise<void> {
    const kept = await keptNotes(this.host.caseId());
    this.notes = new Map(kept.map((note) => [note.of, note]));
  }

  get all(): Iterable<NoteRecord> {
    return this.notes.values();
  }

  get(id: string): NoteRecord | undefined {
    return this.notes.get(id);
  }

  async of(id: string): Promise<Note | null> {
    return this.notes.get(id) ?? null;
  }

  async keep({ of, kind, text, labels }: Note): Promise<void> {
    const before = this.notes.get(of);
    const own = [...new Set(labels.map((label) => label.trim()).filter((label) => label !== ''))];
    await this.put([{ of, kind, text: text.trim(), labels: own }]);
    const detail = { record: of, note: text.trim(), labels: own.join(', ') };
    const isText = (before?.text ?? '') !== text.trim();
    await logAct(this.host.caseId(), isText ? 'note written' : 'labels changed', detail);
    this.host.changed();
  }

  async label(records: Labelled, label: string, isOn: boolean): Promise<number> {
    const { kind } = records;
    const own = label.trim();
    const ids = kind === 'line' ? await this.host.lines(records.filter) : this.host.chosenFiles();
    return this.relabel(ids, kind, own, isOn);
  }

  private async relabel(
    ids: readonly string[],
    kind: Note['kind'],
    label: string,
    isOn: boolean
  ): Promise<number> {
    const notes = ids.flatMap((of): Note[] => {
      const { text, labels } = this.notes.get(of) ?? NO_NOTE;
      if (label === '' || labels.includes(label) === isOn) return [];
      const others = labels.filter((one) => one !== label);
      return [{ of, kind, text, labels: isOn ? [...others, label] : others }];
    });
    if (notes.length === 0) return 0;
    await this.put(notes);
    await logAct(this.host.caseId(), 'labels changed', { records: notes.length, label, set: isOn });
    this.host.changed();
    return notes.length;
  }

  private async put(notes: readonly Note[]): Promise<void> {
    const caseId = this.host.caseId();
    const records = notes.map((note) => ({ ...note, caseId, changedAt: Date.now() }));
    await keepNotes(records);
    this.version++;
    for (const record of records)
      if (record.text === '' && record.labels.length === 0) this.notes.delete(record.of);
      else this.notes.set(record.of, record);
  }

  async labels(): Promise<[label: string, count: number][]> {
    const counts = new Map<string, number>();
    for (const { labels } of this.all)
      for (const label of labels) counts.set(label, (counts.get(label) ?? 0) + 1);
    return [...counts].sort(([a], [b]) => a.localeCompare(b));
  }

  /** Ids of records whose note or labels hold a text. */
  matching(query: string): string[] {
    const wanted = foldText(query);
    return [...this.all].filter((note) => holds(note, wanted)).map(({ of }) => of);
  }

  /** What is noted of a file. */
  onFile(key: string): FileNote {
    const { text, labels } = this.notes.get(key) ?? NO_NOTE;
    return { note: text, labels };
  }

  /** Ids of records that have a label; of those with any note where it is empty. */
  labelled(label: string): string[] {
    return [...this.all]
      .filter(({ labels }) => label === '' || labels.includes(label))
      .map(({ of }) => of);
  }
}

function holds({ text, labels }: NoteRecord, wanted: string): boolean {
  return foldText([text, ...labels].join('\n')).includes(wanted);
}
