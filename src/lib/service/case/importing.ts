import { carriedSchema, ofStore, type Carried } from '$core/case';
import { UNDECIDED } from '$core/case/people';
import {
  BatchBuilder,
  caseFileSchema,
  caseParts,
  CaseStreamError,
  emptyInside,
  fromCaseFile,
  messageFromFile,
  type CaseFile,
  type Findings,
  type Source
} from '$core/records';
import { idKey } from '$core/case/lines';
import { isZone } from '$core/shown';
import type { z } from 'zod';
import { keepCarried } from '../../storage/carried';
import { comingLock, newCase, putCase } from '../../storage/casebook';
import { logAct } from '../../storage/custody';
import { keepNotes } from '../../storage/notes';
import { openStorage } from '../../storage/open';
import type { CaseRecord, SourceRecord } from '../../storage/schema';
import { blobSha256 } from '../host/hash';
import { Keeper } from '../lines/keeping';
import { Shelf, sumOf } from '../evidence/shelf';

export type ImportResult = { ok: true; caseId: string } | { ok: false; reason: string };

/** Told how much of the work is done, 0 to 1. */
export type ImportProgress = (fraction: number) => void;

/** Shares of the work: all but the messages, the messages, keeping them. */
const [FIRST, SECOND] = [0.25, 0.65];
/** Messages that are put into columns at a time. */
const BATCH = 4096;

/** A file that no case can be made of; the message follows the file's name. */
class ImportError extends Error {}

/**
 * Makes a case of a case file that was saved elsewhere, however large. The
 * evidence itself is not in it: lines and proofs can be read, their bytes are
 * shown once the evidence is added, which is told by its checksums.
 */
export async function importCase(
  file: Blob,
  name: string,
  report: ImportProgress = () => undefined
): Promise<ImportResult> {
  const record = newCase(name.replace(/(\.case)?\.jsonl?$/i, ''), '', 'Etc/UTC');
  try {
    await whileComing(record.id, () => new CaseImport(file, name, record, report).run());
    return { ok: true, caseId: record.id };
  } catch (error) {
    if (error instanceof ImportError) return { ok: false, reason: `${name} ${error.message}` };
    if (error instanceof CaseStreamError)
      return { ok: false, reason: `${name} is not a case file: ${error.message}.` };
    throw error;
  }
}

/** Others take what is half done for left behind, unless this is held. */
async function whileComing(id: string, work: () => Promise<void>): Promise<void> {
  const locks = globalThis.navigator?.locks;
  return locks ? locks.request(comingLock(id), work) : work();
}

type Lists = Pick<
  CaseFile,
  | 'sources'
  | 'stores'
  | 'people'
  | 'threads'
  | 'attachments'
  | 'calls'
  | 'contacts'
  | 'files'
  | 'gaps'
>;

class CaseImport {
  private readonly lists: Lists = {
    sources: [],
    stores: [],
    people: [],
    threads: [],
    attachments: [],
    calls: [],
    contacts: [],
    files: [],
    gaps: []
  };
  private head: Partial<Pick<CaseFile, 'format' | 'version' | 'zone' | 'decisions' | 'notes'>> = {};
  private carried: Carried | null = null;
  private messages = 0;
  /** Lines by the keys of their messages' ids. */
  private readonly lines = new Map<number, number>();

  constructor(
    private readonly file: Blob,
    private readonly name: string,
    private record: CaseRecord,
    private readonly report: ImportProgress
  ) {}

  async run(): Promise<void> {
    await this.readAllButMessages();
    const { record } = this;
    // Until all of it is kept it is not listed; what was left half done is cleared away.
    record.isComing = true;
    await putCase(record);
    const { sources, findings, files } = fromCaseFile({
      format: 'ombudsman-case',
      version: 1,
      made: new Date().toISOString(),
      zone: record.zone,
      ...this.lists,
      messages: []
    });
    const db = await openStorage();
    for (const source of sources) await db.put('sources', await this.sourceRecord(source));
    const keeper = await Keeper.open(record.id);
    await this.keepMessages(keeper, findings);
    await this.keepStores(keeper, findings);
    const shelf = new Shelf(record.id);
    for (const source of sources) {
      const own = files.filter((one) => one.source === source.id);
      if (own.length > 0) await shelf.keepFiles(source.id, own);
    }
    await this.keepRest();
    await keeper.join(true);
    await this.finish(sources);
  }

  private async readAllButMessages(): Promise<void> {
    const isWanted = (section: string): boolean => section !== 'messages';
    for await (const { section, value } of this.parts(isWanted, 0, FIRST)) {
      if (section in this.lists) this.list(section as keyof Lists, value);
      else if (section === 'notes') {
        const note = checked(caseFileSchema.shape.notes.unwrap().element, value, section);
        this.head.notes = [...(this.head.notes ?? []), note];
      } else if (section === 'carried') this.carried = checked(carriedSchema, value, section);
      else if (section in caseFileSchema.shape) Object.assign(this.head, { [section]: value });
    }
    const { format, version, zone, decisions } = this.head;
    checked(caseFileSchema.shape.format, format, 'format');
    checked(caseFileSchema.shape.version, version, 'version');
    const known = checked(caseFileSchema.shape.zone, zone, 'zone');
    if (!isZone(known))
      throw new ImportError(`names the time zone “${known}”, which is not known here.`);
    this.record = { ...this.record, zone: known, ...this.recordCarried() };
    this.record.decisions = decisions
      ? checked(caseFileSchema.shape.decisions.unwrap(), decisions, 'decisions')
      : UNDECIDED;
  }

  private list(section: keyof Lists, value: unknown): void {
    const schema = caseFileSchema.shape[section].element as z.ZodType<
      Lists[typeof section][number]
    >;
    (this.lists[section] as unknown[]).push(checked(schema, value, section));
  }

  /** The name, the client and what was counted; names of people, where no others are carried. */
  private recordCarried(): Partial<CaseRecord> {
    const { carried, lists } = this;
    if (!carried) {
      const known = lists.people.filter((person) => person.name !== null && !person.owner);
      return { names: Object.fromEntries(known.map((person) => [person.id, person.name!])) };
    }
    const { name, client, region, lastLine, names, lastSource, removedSources, book } = carried;
    const { fileJoins } = carried;
    return {
      ...{ name, client, region, lastLine, names },
      ...(fileJoins ? { fileJoins } : {}),
      ...(lastSource === undefined ? {} : { lastSource }),
      ...(removedSources ? { removedSources } : {}),
      ...(book ? { book } : {})
    };
  }

  private async *parts(
    wants: (section: string) => boolean,
    from: number,
    share: number
  ): ReturnType<typeof caseParts> {
    const { file, report } = this;
    let done = 0;
    const chunks = async function* (): AsyncGenerator<Uint8Array> {
      const reader = file.stream().getReader();
      for (let read = await reader.read(); !read.done; read = await reader.read()) {
        done += read.value.length;
        report(from + (share * done) / Math.max(1, file.size));
        yield read.value;
      }
    };
    yield* caseParts(chunks(), wants);
  }

  /** Messages go into columns as they come, whatever their number. */
  private async keepMessages(keeper: Keeper, { threads, stores }: Findings): Promise<void> {
    const storeOf = new Map(threads.map(({ id, store }) => [id, store]));
    const sourceOf = new Map(stores.map(({ id, source }) => [id, source]));
    const builders = new Map<string, BatchBuilder>();
    const schema = caseFileSchema.shape.messages.element;
    for await (const { value } of this.parts((section) => section === 'messages', FIRST, SECOND)) {
      const found = checked(schema, value, 'messages');
      const store = storeOf.get(found.thread);
      const source = store === undefined ? undefined : sourceOf.get(store);
      if (store === undefined || source === undefined)
        throw new ImportError(
          `is damaged: the message ${found.id} names a conversation or a store that is not in it.`
        );
      if (found.line) this.lines.set(idKey(found.id), found.line);
      this.messages++;
      let builder = builders.get(store);
      if (!builder) builders.set(store, (builder = new BatchBuilder(store)));
      builder.add(messageFromFile(found, store));
      if (builder.count >= BATCH) await keeper.add(source, builder.take());
    }
    for (const [store, builder] of builders)
      if (builder.count > 0) await keeper.add(sourceOf.get(store)!, builder.take());
  }

  private async keepStores(keeper: Keeper, findings: Findings): Promise<void> {
    const given = this.lines.size > 0 ? { given: this.lines } : {};
    for (const [i, store] of findings.stores.entries()) {
      const own = ofStore(findings, store.id);
      this.record = await keeper.keep(store.source, own, this.record, { isFinal: true, ...given });
      this.report(FIRST + SECOND + (1 - FIRST - SECOND) * ((i + 1) / findings.stores.length));
    }
  }

  /** Notes, and what else a case file carries. */
  private async keepRest(): Promise<void> {
    const { record, carried, head } = this;
    const changedAt = Date.now();
    await keepNotes((head.notes ?? []).map((note) => ({ ...note, caseId: record.id, changedAt })));
    if (carried) await keepCarried(record.id, carried);
  }

  private async finish(sources: readonly Source[]): Promise<void> {
    const { isComing: _, ...record } = this.record;
    await putCase(record);
    await logAct(record.id, 'case imported', {
      file: this.name,
      sha256: await blobSha256(this.file),
      sources: sources.map(({ name, sha256 }) => ({ name, sha256 })),
      messages: this.messages
    });
  }

  private async sourceRecord(source: Source): Promise<SourceRecord> {
    const now = Date.now();
    const { id, name, parts, depth } = source;
    const known = this.carried?.sources.find((one) => one.id === id);
    const { isNamed, localZone, want, copied } = known ?? {};
    return {
      key: `${this.record.id}/${id}`,
      caseId: this.record.id,
      ...{ id, name },
      addedAt: known?.addedAt ?? now,
      files: parts,
      sum: known?.sum ?? (await sumOf(parts)),
      source: { ...source, inside: known?.inside ?? emptyInside() },
      pass: { state: 'done', depth, startedAt: now, endedAt: now, ...(want ? { want } : {}) },
      stores: [],
      glance: null,
      isAway: true,
      ...(isNamed ? { isNamed } : {}),
      ...(localZone ? { localZone } : {}),
      ...(copied ? { copied } : {})
    };
  }
}

/** @throws ImportError naming the section where a value is not what it should be */
function checked<T>(schema: z.ZodType<T>, value: unknown, section: string): T {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  const where = [section, ...(issue?.path ?? [])].join('.');
  throw new ImportError(
    `is not a case file of version 1 or 2: at ${where}, ${issue?.message ?? 'something is wrong'}.`
  );
}
