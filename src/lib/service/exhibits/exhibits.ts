import {
  applied,
  chosenOn,
  currentList,
  listsOfLines,
  type ChosenKind,
  type ExhibitChange,
  type ExhibitFacts,
  type ExhibitLists
} from '$core/exhibits';
import type { Reason, Redaction, Settings } from '$core/produce';
import { logAct } from '../../storage/custody';
import { changeExhibits, keptExhibits } from '../../storage/exhibits';
import type { ExhibitRecord } from '../../storage/schema';

/** The exhibit lists and redactions of a case, as they are kept. */
export class CaseExhibits {
  /** Ids of everything on the list in use. */
  readonly chosen = new Set<string>();
  lists!: ExhibitLists;
  redactions: Redaction[] = [];
  reasons: Reason[] = [];
  /** Files with covered words inside that go along as they are. */
  letGo: string[] = [];

  /** @param groupsOf the conversations of lines. */
  constructor(
    private readonly caseId: string,
    private readonly groupsOf: (messages: Iterable<string>) => Promise<ReadonlyMap<string, string>>
  ) {}

  /** What a change needs to know of lines: of those that come, and of the first of each exhibit. */
  private async factsOf(record: ExhibitRecord, more: Iterable<string>): Promise<ExhibitFacts> {
    const entries = (record.lists?.lists ?? []).flatMap((list) => list.entries);
    const firsts = entries.flatMap(({ kind, ids }) => (kind === 'lines' ? ids.slice(0, 1) : []));
    const groups = await this.groupsOf([...firsts, ...(record.messages ?? []), ...more]);
    return { groupOf: (id) => groups.get(id) ?? '', newId: () => crypto.randomUUID() };
  }

  async load(): Promise<void> {
    const record = await keptExhibits(this.caseId);
    // Only cases of earlier versions have to be asked whose lines they are.
    this.take(record, record.lists ? NO_FACTS : await this.factsOf(record, []));
  }

  /** What is asked for next waits for it: a redaction that is still being written is one. */
  private changed(change: Parameters<typeof changeExhibits>[1]): Promise<ExhibitRecord> {
    const work = changeExhibits(this.caseId, change);
    this.changing = Promise.allSettled([this.changing, work]).then(() => undefined);
    return work;
  }

  private take(record: ExhibitRecord, facts: ExhibitFacts = NO_FACTS): void {
    this.lists = listsIn(record, facts);
    this.redactions = redactionsIn(record);
    this.reasons = record.reasons ?? [];
    this.letGo = record.letGo ?? [];
    this.chosen.clear();
    for (const id of chosenOn(currentList(this.lists))) this.chosen.add(id);
  }

  /** Codes of redactions by the message or attachment that they are in. */
  codes(): Map<string, string[]> {
    const found = new Map<string, string[]>();
    for (const redaction of this.redactions) {
      const id =
        'message' in redaction
          ? redaction.message
          : 'attachment' in redaction
            ? redaction.attachment
            : null;
      if (id !== null) found.set(id, [...(found.get(id) ?? []), redaction.code]);
    }
    return found;
  }

  /** Ids of everything on any list. */
  all(): string[] {
    return this.lists.lists.flatMap(({ entries }) => entries.flatMap(({ ids }) => ids));
  }

  /** Ids of the messages and files that something of is covered. */
  covered(): string[] {
    return [...this.codes().keys()];
  }

  /** Lists as they were before something was dropped. */
  private dropped: ExhibitLists | null = null;

  /** Ids of one kind on the list in use. */
  idsOf(kind: ChosenKind): string[] {
    const own = currentList(this.lists).entries.filter((entry) => entry.kind === kind);
    return own.flatMap(({ ids }) => ids);
  }

  /** Changes are made one after another; a view waits for those that were asked for before it. */
  private changing: Promise<void> = Promise.resolve();

  async change(change: ExhibitChange): Promise<void> {
    const made = this.changing.then(() => this.make(change));
    this.changing = made.catch(() => undefined);
    return made;
  }

  /** Over when every change that was asked for is made, or has failed to be. */
  settled(): Promise<void> {
    return this.changing;
  }

  private async make(change: ExhibitChange): Promise<void> {
    const before = this.chosen.size;
    if (change.type === 'drop' || change.type === 'drop-list') this.dropped = this.lists;
    const isChoosing = change.type === 'choose' && change.kind === 'lines';
    const kept = await keptExhibits(this.caseId);
    const isAsked = isChoosing || !kept.lists;
    const facts = isAsked ? await this.factsOf(kept, isChoosing ? change.ids : []) : NO_FACTS;
    this.take(
      await this.changed((current) => ({
        lists: applied(listsIn(current, facts), change, facts),
        messages: []
      }))
    );
    await this.tellChange(change, this.chosen.size - before);
  }

  /** Brings back what was dropped last. */
  async undoDrop(): Promise<void> {
    const lists = this.dropped;
    if (!lists) return;
    this.dropped = null;
    this.take(await this.changed(() => ({ lists })));
    const list = currentList(lists).name;
    await logAct(this.caseId, 'exhibits changed', { list, change: 'undo' });
  }

  private async tellChange(change: ExhibitChange, more: number): Promise<void> {
    const list = currentList(this.lists).name;
    switch (change.type) {
      case 'choose':
        if (more > 0)
          await logAct(this.caseId, 'selected', { list, kind: change.kind, count: more });
        return;
      case 'take-back':
      case 'drop':
        return logAct(this.caseId, 'unselected', { list, count: Math.max(0, -more) });
      default: {
        const { type, ...told } = change;
        return logAct(this.caseId, 'exhibits changed', { list, change: type, ...told });
      }
    }
  }

  async redact(redactions: readonly Redaction[], line: number | null): Promise<void> {
    this.take(
      await this.changed((kept) => ({
        redactions: [...redactionsIn(kept), ...redactions]
      }))
    );
    for (const redaction of redactions)
      await logAct(this.caseId, 'redaction made', { ...toldOf(redaction), line });
  }

  async takeBack(redaction: Redaction): Promise<void> {
    const same = JSON.stringify(redaction);
    this.take(
      await this.changed((kept) => {
        const all = redactionsIn(kept);
        const at = all.findIndex((one) => JSON.stringify(one) === same);
        return { redactions: all.filter((_, i) => i !== at) };
      })
    );
    await logAct(this.caseId, 'redaction removed', toldOf(redaction));
  }

  /** Writes down that files go along though covered words stand inside. */
  async letFilesGo(files: readonly { id: string; codes: readonly string[] }[]): Promise<void> {
    this.take(
      await this.changed(({ letGo = [] }) => ({
        letGo: [...new Set([...letGo, ...files.map(({ id }) => id)])]
      }))
    );
    for (const { id, codes } of files)
      await logAct(this.caseId, 'file let go', { file: id, codes: [...codes] });
  }

  async setReasons(reasons: Reason[]): Promise<void> {
    this.take(await this.changed(() => ({ reasons })));
    await logAct(this.caseId, 'reasons changed', { codes: reasons.map(({ code }) => code) });
  }

  async settings(): Promise<Settings | null> {
    return (await keptExhibits(this.caseId)).settings ?? null;
  }

  /** Keeps how records are to be produced: without a password, and without what is kept beside. */
  async keepSettings(settings: Settings): Promise<void> {
    const { exhibits: _, ...rest } = settings;
    const kept = { ...rest, pdf: { ...rest.pdf, password: null }, redactions: [], reasons: [] };
    await this.changed((record) => ({
      settings: kept,
      redactions: redactionsIn(record)
    }));
  }
}

const NO_FACTS: ExhibitFacts = { groupOf: () => '', newId: () => crypto.randomUUID() };

function listsIn({ lists, messages }: ExhibitRecord, facts: ExhibitFacts): ExhibitLists {
  return lists ?? listsOfLines(messages ?? [], facts);
}

/** Earlier versions kept redactions with the settings. */
function redactionsIn({ redactions, settings }: ExhibitRecord): Redaction[] {
  return redactions ?? settings?.redactions ?? [];
}

/** What the log says of a redaction: never what it covers. */
function toldOf(redaction: Redaction): Record<string, unknown> {
  const { code } = redaction;
  if ('text' in redaction) return { code, what: 'words wherever they appear' };
  if ('person' in redaction) return { code, what: 'a person, wherever named' };
  if ('attachment' in redaction)
    return {
      code,
      what: 'whole' in redaction ? 'a file' : 'a part of a picture',
      file: redaction.attachment
    };
  if ('whole' in redaction) return { code, what: 'a line', message: redaction.message };
  // How long the words are would tell something of them.
  return { code, what: 'words of a line', message: redaction.message };
}
