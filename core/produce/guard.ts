import Papa from 'papaparse';
import type { FormatContext, ProducedFile } from './formats/format';
import { filesOf, type Production, type ProductionLine } from './model';
import { searched, LetGo, RedactionError, type Leak, type Redactor } from './redact';
import { textsWithin } from './values';
import type { FormatName, Settings } from './settings';
import { shown } from './parts';

/** Files that hold covered words inside, or may hold them, of which nobody has decided. */
export class UndecidedError extends Error {
  override readonly name = 'UndecidedError';

  constructor(readonly files: readonly UndecidedFile[]) {
    const it = files.length === 1 ? 'it' : 'each';
    // Every id, so that one look at the sentence is enough to settle all.
    const decisions = files.map(({ id }) => ({ attachment: id, goesAlong: true }));
    super(
      `${files.map(said).join(' ')} Cover ${it} whole, or say that ${it} goes along: "decisions": ${JSON.stringify(decisions)}.`
    );
  }
}

function said({ name, codes, where, isUnread }: UndecidedFile): string {
  const inside = where === '' ? '' : ` (${where})`;
  return isUnread
    ? `${name}${inside} cannot be read inside: covered words may stand in it.`
    : `Covered words stand inside of ${name} (${codes.join(', ')}).`;
}

export interface UndecidedFile {
  id: string;
  name: string;
  /** Codes of what stands in it, or may. */
  codes: string[];
  /** It, or a part of it, is locked, damaged or packed in a way that is not opened here. */
  isUnread: boolean;
  /** Where in the file, in words. */
  where: string;
}

/** Formats into which files go. */
const WITH_FILES: readonly FormatName[] = ['pdf', 'html', 'eml', 'mbox', 'media'];

/**
 * The last look at everything that leaves: no file of a package is handed out
 * in which something covered can be read, however it is packed or encoded.
 */
export class Guard {
  private readonly letGo = new LetGo();

  constructor(
    private readonly redactor: Redactor,
    /** What a format writes of its own accord, without a word of the case. */
    private readonly ownTexts: (from: string) => Promise<readonly Uint8Array[]>
  ) {}

  /** @throws UndecidedError where files hold covered words and nobody has decided what becomes of them */
  async decide(
    production: Production,
    { formats, decisions }: Settings,
    { media, signal }: Pick<FormatContext, 'media' | 'signal'>
  ): Promise<void> {
    if (this.redactor.everywhere.isEmpty || !formats.some((name) => WITH_FILES.includes(name)))
      return;
    const decided = new Set(decisions.map(({ attachment }) => this.redactor.id(attachment)));
    const files = filesOf(production);
    const sums = new Set(
      files.flatMap(({ id, sha256 }) => (decided.has(id) ? (sha256 ?? []) : []))
    );
    const undecided = new Map<string, UndecidedFile>();
    for (const file of files) {
      signal.throwIfAborted();
      if (file.sha256 === null || undecided.has(file.sha256)) continue;
      const found = await media.get(file);
      if (typeof found === 'string') continue;
      if (sums.has(file.sha256)) {
        this.letGo.add(found.bytes);
        continue;
      }
      const { leaks, unread } = await searched(found.bytes, this.redactor.everywhere, this.letGo);
      const isUnread = leaks.length === 0;
      if (isUnread && unread.length === 0) continue;
      undecided.set(file.sha256, {
        id: this.redactor.originalOf(file.id),
        name: shown(file.name),
        codes: isUnread
          ? this.redactor.everywhere.codes
          : [...new Set(leaks.map(({ code }) => code))],
        isUnread,
        where: leaks[0]?.where ?? unread[0]!
      });
    }
    if (undecided.size > 0) throw new UndecidedError([...undecided.values()]);
  }

  private async leaksIn(path: string, bytes: Uint8Array): Promise<Leak[]> {
    const { everywhere } = this.redactor;
    // Files that cannot be read inside were decided on; the formats' own can all be read.
    if (!/^data\/[\w-]+\.(csv|jsonl?)$/.test(path))
      return (await searched(bytes, everywhere, this.letGo)).leaks;
    const leaks = new Map<string, Leak>();
    for (const value of valuesIn(path, bytes))
      for (const { form, code } of everywhere.formsIn(value))
        leaks.set(form, { form, code, where: '' });
    return [...leaks.values()];
  }

  /** @throws RedactionError where something covered can be read in a finished file, or in its name */
  async check({ path, bytes }: ProducedFile, from: string): Promise<void> {
    const { everywhere } = this.redactor;
    if (everywhere.isEmpty) return;
    const inName = everywhere.formsIn(path)[0];
    if (inName) throw leakError('the name of a file', inName.code, '');
    const leaks = await this.leaksIn(path, bytes);
    if (leaks.length === 0) return;
    const own = new Set<string>();
    for (const text of await this.ownTexts(from))
      for (const { form } of await this.leaksIn(path, text)) own.add(form);
    const leak = leaks.find(({ form }) => !own.has(form));
    if (leak) throw leakError(path, leak.code, leak.where);
  }
}

/** The values in a sheet or in records: what stands between them is the format's, and no word of the case. */
function* valuesIn(path: string, bytes: Uint8Array): Generator<string> {
  const text = new TextDecoder().decode(bytes);
  if (path.endsWith('.csv')) {
    for (const row of Papa.parse<string[]>(text).data) yield* row;
    return;
  }
  const documents = path.endsWith('.jsonl') ? text.split('\n').filter((line) => line) : [text];
  for (const document of documents) yield* textsWithin(JSON.parse(document));
}

function leakError(path: string, code: string, where: string): RedactionError {
  return new RedactionError(
    `What is covered as ${code} can be read in ${path}${where === '' ? '' : ` (${where})`}; the package is not handed out.`
  );
}

/**
 * The same production without a word of the case: what its formats make of it
 * are the program's own words, dates, numbers and states.
 */
export function withoutWords(production: Production): Production {
  const line = (one: ProductionLine): ProductionLine => ({
    ...one,
    sender: [],
    address: [],
    body: [],
    subject: [],
    reasons: [],
    proofs: [],
    source: '',
    store: null,
    attachments: [],
    replyTo: one.replyTo && { ...one.replyTo, quote: [] },
    reactions: [],
    place: null
  });
  const threads = production.threads.map((thread) => ({
    ...thread,
    title: [],
    participants: [],
    lines: thread.lines.map(line)
  }));
  const calls = production.calls.map((call) => ({
    ...call,
    who: [],
    address: [],
    source: '',
    proofs: []
  }));
  const { head } = production;
  return {
    ...production,
    head: {
      ...head,
      caseName: '',
      title: '',
      reference: null,
      preparedBy: null,
      preparedFor: null
    },
    sources: production.sources.map((source) => ({ ...source, name: '' })),
    sections: [
      ...threads.map((thread) => ({ kind: 'thread' as const, label: null, title: [], thread })),
      { kind: 'calls' as const, label: null, title: [], calls }
    ],
    threads,
    calls,
    contacts: [],
    files: [],
    gaps: [],
    redacted: production.redacted.map((entry) => ({ ...entry, reason: '' }))
  };
}
