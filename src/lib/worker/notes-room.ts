import { proxyMarker, type ProxyMarked } from 'comlink';
import { foldText } from '$core/lines';
import { logAct } from '../storage/custody';
import { keepNote, keptNotes } from '../storage/notes';
import type { NoteRecord } from '../storage/schema';

export type Note = Pick<NoteRecord, 'of' | 'kind' | 'text' | 'labels'>;

/** What the page asks about notes and labels. */
export interface NotesApi extends ProxyMarked {
  of(id: string): Promise<Note | null>;
  keep(note: Note): Promise<void>;
  /** Puts a label on records, or takes it off. */
  label(ids: string[], kind: Note['kind'], label: string, isOn: boolean): Promise<void>;
  /** Labels in use, with how many records have each. */
  labels(): Promise<[label: string, count: number][]>;
}

interface NotesHost {
  caseId(): string;
  /** Notes have changed. */
  changed(): void;
}

/** The notes and labels of a case. */
export class NotesRoom implements NotesApi {
  readonly [proxyMarker] = true as const;
  private notes = new Map<string, NoteRecord>();

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
    await this.put({ of, kind, text: text.trim(), labels: own });
    const detail = { record: of, note: text.trim(), labels: own.join(', ') };
    const isText = (before?.text ?? '') !== text.trim();
    await logAct(this.host.caseId(), isText ? 'note written' : 'labels changed', detail);
    this.host.changed();
  }

  async label(ids: string[], kind: Note['kind'], label: string, isOn: boolean): Promise<void> {
    for (const of of ids) {
      const { text, labels } = this.notes.get(of) ?? { text: '', labels: [] };
      const others = labels.filter((one) => one !== label);
      await this.put({ of, kind, text, labels: isOn ? [...others, label] : others });
    }
    await logAct(this.host.caseId(), 'labels changed', { records: ids.length, label, set: isOn });
    this.host.changed();
  }

  private async put(note: Note): Promise<void> {
    const record = { ...note, caseId: this.host.caseId(), changedAt: Date.now() };
    await keepNote(record);
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
    return [...this.all]
      .filter(({ text, labels }) => foldText([text, ...labels].join('\n')).includes(wanted))
      .map(({ of }) => of);
  }

  /** Ids of records that have a label; of those with any note where it is empty. */
  labelled(label: string): string[] {
    return [...this.all]
      .filter(({ labels }) => label === '' || labels.includes(label))
      .map(({ of }) => of);
  }
}
