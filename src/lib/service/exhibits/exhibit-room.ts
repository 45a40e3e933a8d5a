import type { CaseIndex, Naming } from '$core/case';
import { OWNER } from '$core/records';
import { proxyMarker, type ProxyMarked } from 'comlink';
import { append } from '$core/host';
import type { ChosenKind, ExhibitChange } from '$core/exhibits';
import { CHUNK } from '$core/case/lines';
import {
  Secrets,
  type Reason,
  type Redaction,
  type Settings,
  type UndecidedFile
} from '$core/produce';
import { bodyAt } from '$core/records';
import type { CaseExhibits } from './exhibits';
import type { ExhibitView, PersonRow, ReadFilter, RedactionView } from '../api/protocol';
import type { Reader } from '../lines/query';
import { RedactionRows } from '../lines/redaction-rows';

/** What the page asks about what is chosen, and what is covered in it. */
export interface ExhibitApi extends ProxyMarked {
  /** Puts lines on the exhibit list in use, or takes them off; gives how many records it has. */
  choose(messageIds: string[], chosen: boolean): Promise<number>;
  chooseRange(correspondent: string, filter: ReadFilter, from: number, to: number): Promise<number>;
  chooseThread(correspondent: string, filter: ReadFilter, chosen: boolean): Promise<number>;
  /** Chooses the lines of the day of a line. */
  chooseDay(correspondent: string, filter: ReadFilter, messageId: string): Promise<number>;
  /** Chooses every line that a filter lets pass, with whomever. */
  chooseHits(filter: ReadFilter): Promise<number>;
  chooseRecords(kind: ChosenKind, ids: string[], chosen: boolean): Promise<number>;
  /** Ids of one kind on the exhibit list in use. */
  chosen(kind: ChosenKind): Promise<Set<string>>;
  view(): Promise<ExhibitView>;
  change(change: ExhibitChange): Promise<void>;
  /** Brings back the exhibit or list that was dropped last. */
  undoDrop(): Promise<void>;
  redactions(): Promise<RedactionView>;
  /** Whether a text that is to be covered everywhere stands anywhere in the case. */
  holds(text: string): Promise<boolean>;
  redact(redactions: Redaction[]): Promise<void>;
  takeBack(redaction: Redaction): Promise<void>;
  /** Files with covered words inside go along as they are. */
  letFilesGo(files: UndecidedFile[]): Promise<void>;
  setReasons(reasons: Reason[]): Promise<void>;
  /** People with a name or an address, to be redacted. */
  people(): Promise<PersonRow[]>;
  /** Everybody who takes part in no conversation that lines were chosen of, and is not the owner. */
  others(): Promise<string[]>;
  /** Settings of the case, last used; null where there are none. */
  settings(): Promise<Settings | null>;
  keepSettings(settings: Settings): Promise<void>;
  /** The chosen line of a number; null where that is none. */
  line(number: number): Promise<{ id: string; body: string } | null>;
}

interface ExhibitHost {
  exhibits(): CaseExhibits;
  index(): CaseIndex;
  naming(): Naming;
  reader(): Reader;
  /** Exhibits as they stand, with the pages on which they begin. */
  view(): Promise<ExhibitView>;
  /** What was chosen has changed. */
  chosenChanged(): void;
  /** What is covered, or why, has changed. */
  coveredChanged(): void;
}

/** The exhibit lists and redactions of a case. */
export class ExhibitRoom implements ExhibitApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly host: ExhibitHost) {}

  async choose(messageIds: string[], chosen: boolean): Promise<number> {
    return this.chooseRecords('lines', messageIds, chosen);
  }

  async chooseRecords(kind: ChosenKind, ids: string[], chosen: boolean): Promise<number> {
    await this.change(chosen ? { type: 'choose', kind, ids } : { type: 'take-back', ids });
    return this.host.exhibits().chosen.size;
  }

  async chooseRange(id: string, filter: ReadFilter, from: number, to: number): Promise<number> {
    const reader = this.host.reader();
    return this.choose(await reader.idsOf(await reader.matching(id, filter), from, to), true);
  }

  async chooseThread(id: string, filter: ReadFilter, chosen: boolean): Promise<number> {
    const reader = this.host.reader();
    return this.choose(await reader.idsOf(await reader.matching(id, filter)), chosen);
  }

  async chooseDay(id: string, filter: ReadFilter, messageId: string): Promise<number> {
    return this.choose(await this.host.reader().ofDay(id, filter, messageId), true);
  }

  async chooseHits(filter: ReadFilter): Promise<number> {
    return this.choose(await this.idsOf(filter), true);
  }

  /** The lines that pass a filter, in all conversations. */
  async idsOf(filter: ReadFilter): Promise<string[]> {
    const reader = this.host.reader();
    const ids: string[] = [];
    for (const { id } of this.host.index().conversations)
      append(ids, await reader.idsOf(await reader.matching(id, filter)));
    return ids;
  }

  async chosen(kind: ChosenKind): Promise<Set<string>> {
    return new Set(this.host.exhibits().idsOf(kind));
  }

  async view(): Promise<ExhibitView> {
    return this.host.view();
  }

  async change(change: ExhibitChange): Promise<void> {
    await this.host.exhibits().change(change);
    this.host.chosenChanged();
  }

  async undoDrop(): Promise<void> {
    await this.host.exhibits().undoDrop();
    this.host.chosenChanged();
  }

  async redactions(): Promise<RedactionView> {
    const { redactions, reasons } = this.host.exhibits();
    return { rows: (await this.rowsOf(redactions)).all(redactions), reasons };
  }

  private rowsOf(redactions: readonly Redaction[]): Promise<RedactionRows> {
    return RedactionRows.of(this.host.index(), this.host.naming(), redactions);
  }

  async holds(text: string): Promise<boolean> {
    const secrets = new Secrets([{ text, code: '' }]);
    const found = (one: string | null): boolean => one !== null && secrets.firstIn(one) !== null;
    const [index, naming] = [this.host.index(), this.host.naming()];
    for (const id of index.people.keys())
      for (const name of naming.known(id)) if (found(name)) return true;
    for (const { title } of index.conversations) if (found(title)) return true;
    for (const { name, note, organisation } of index.contacts)
      if ([name, note, organisation].some(found)) return true;
    for (const { attachment } of (await index.attachments()).values())
      if (found(attachment.name) || found(attachment.path)) return true;
    for (const { record } of index.stores) if (found(record.facts.path)) return true;
    for (const store of index.stores)
      for (let chunk = 0; chunk * CHUNK < store.record.count; chunk++) {
        const texts = await store.texts(chunk);
        for (let i = 0; i < texts.ends.length; i++) if (found(bodyAt(texts, i))) return true;
      }
    return false;
  }

  async redact(redactions: Redaction[]): Promise<void> {
    const rows = await this.rowsOf(redactions.slice(0, 1));
    await this.host.exhibits().redact(redactions, rows.lineOf(redactions[0]));
    this.host.coveredChanged();
  }

  async takeBack(redaction: Redaction): Promise<void> {
    await this.host.exhibits().takeBack(redaction);
    this.host.coveredChanged();
  }

  async letFilesGo(files: UndecidedFile[]): Promise<void> {
    await this.host.exhibits().letFilesGo(files);
  }

  async setReasons(reasons: Reason[]): Promise<void> {
    await this.host.exhibits().setReasons(reasons);
    this.host.coveredChanged();
  }

  async people(): Promise<PersonRow[]> {
    const naming = this.host.naming();
    return [...this.host.index().people.keys()]
      .map((id) => ({ id, name: naming.person(id), address: naming.shown(id) }))
      .sort((a, b) => a.name.localeCompare(b.name));
  }

  async others(): Promise<string[]> {
    const [index, naming] = [this.host.index(), this.host.naming()];
    const present = new Set<string>([OWNER]);
    for (const place of (await index.locate(this.host.exhibits().idsOf('lines'))).values()) {
      const row = index.correspondentOf(index.threadOf(place));
      for (const person of row?.participants ?? [])
        for (const member of naming.members(person)) present.add(member);
    }
    // Of an individual with several addresses one person stands for all.
    const asked = new Set<string>();
    return [...index.people.keys()].filter((id) => {
      const members = naming.members(id);
      const isOther =
        !present.has(id) && !members.some((one) => present.has(one) || asked.has(one));
      if (isOther) asked.add(id);
      return isOther;
    });
  }

  async settings(): Promise<Settings | null> {
    return this.host.exhibits().settings();
  }

  async keepSettings(settings: Settings): Promise<void> {
    return this.host.exhibits().keepSettings(settings);
  }

  async line(number: number): Promise<{ id: string; body: string } | null> {
    const index = this.host.index();
    for (const place of (await index.locate(this.host.exhibits().chosen)).values()) {
      if (index.stores[place.store]!.columns.line[place.row] !== number) continue;
      const { message } = await index.held(place);
      return { id: message.id, body: message.body };
    }
    return null;
  }
}
