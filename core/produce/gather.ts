import {
  mostPresent,
  sourceIn,
  type Attachment,
  type Call,
  type Contact,
  type FileRecord,
  type Gap,
  type Message,
  type Proof
} from '../records';
import { Chooser, type ChosenSection } from './choose';
import type { InputSection, ProductionInput } from './input';
import {
  isTornText,
  partsOf,
  type Production,
  type ProductionCall,
  type ProductionContact,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine,
  type ProductionSection,
  type ProductionThread
} from './model';
import { shown, type Text } from './parts';
import { RedactionError, Redactor, Secrets } from './redact';
import { othersOf, PART_TITLES, partsAskedFor, type ChosenPart } from './sections';
import type { Choose, Settings } from './settings';

/** Characters of the line that is answered. */
const QUOTE = 80;

/**
 * The chosen records of a case with redactions applied, ready for any format.
 * @throws ChoiceError, RedactionError
 */
export function gather(
  input: ProductionInput,
  settings: Settings,
  made: number
): { production: Production; redactor: Redactor } {
  const asked = partsAskedFor(input, settings);
  const all = new Map(
    input.sections.flatMap(({ messages }) =>
      messages.map(({ message }): [string, Message] => [message.id, message])
    )
  );
  const named = new Map(all);
  for (const message of input.elsewhere ?? [])
    if (!named.has(message.id)) named.set(message.id, message);
  const shownFor = new Map(
    input.sections.flatMap(({ messages }) =>
      messages.flatMap(({ message, copies = [] }) =>
        copies.map(({ id }): [string, string] => [id, message.id])
      )
    )
  );
  const redactor = new Redactor(settings.redactions, { ...input, messages: named, shownFor });
  if (input.isPart !== true) refuseUnfound(input, settings);
  const said = (text: string): string => shown(redactor.text(text));
  const zone = settings.zone ?? input.zone;
  const gathering = new Gathering(input, redactor, asked, all, shownFor, settings.choose, zone);
  const sections = asked.flatMap((part) => gathering.section(part, settings.choose.gaps));
  return {
    redactor,
    production: {
      head: {
        caseName: said(input.caseName),
        title: said(settings.title ?? `Record of ${input.caseName}`),
        reference: settings.reference ? said(settings.reference) : null,
        preparedBy: settings.preparedBy ? said(settings.preparedBy) : null,
        preparedFor: settings.preparedFor ? said(settings.preparedFor) : null,
        made,
        zone
      },
      sources: input.sources.map((source) => ({
        ...source,
        id: redactor.id(source.id),
        name: said(source.name)
      })),
      sections,
      ...partsOf(sections),
      redactions: redactor.used(),
      redacted: redactor
        .entries(settings.reasons, gathering.numbers)
        .map((entry) => ({ ...entry, reason: said(entry.reason) }))
    }
  };
}

/** A message that carries a file, with its conversation. */
interface Carrying {
  message: Message;
  section: InputSection;
}

class Gathering {
  /** Lines by message. */
  readonly numbers = new Map<string, number>();
  private readonly chooser: Chooser;
  private readonly gaps = new Map<string, { before: Gap[]; after: Gap[] }>();
  private readonly sourceNames: ReadonlyMap<string, string>;
  /** Names that several people have: their addresses stand beside them. */
  private readonly ambiguous: ReadonlySet<string>;

  constructor(
    private readonly input: ProductionInput,
    private readonly redactor: Redactor,
    asked: readonly ChosenPart[],
    private readonly all: ReadonlyMap<string, Message>,
    private readonly shownFor: ReadonlyMap<string, string>,
    choose: Choose,
    zone: string
  ) {
    this.chooser = new Chooser(input, choose, zone);
    for (const part of asked)
      for (const { message, line } of part.kind === 'thread' ? part.chosen.lines : [])
        this.numbers.set(message.id, line);
    for (const gap of input.gaps) this.place(gap);
    this.ambiguous = namesOfSeveral(input);
    this.sourceNames = new Map(
      input.sources.map(({ id, name }) => [id, shown(redactor.text(name))])
    );
  }

  /** The message that is shown for one: itself, unless a copy in another store stands for it. */
  private shown(id: string | null): string | null {
    return id === null ? null : (this.shownFor.get(id) ?? id);
  }

  private lineOf(id: string | null): number | null {
    return this.numbers.get(this.shown(id) ?? '') ?? null;
  }

  private place(gap: Gap): void {
    const [first, last] = [this.shown(gap.before), this.shown(gap.after)];
    const [at, side] =
      first !== null && this.numbers.has(first)
        ? [first, 'before' as const]
        : last !== null && this.numbers.has(last)
          ? [last, 'after' as const]
          : [null, 'after' as const];
    if (at === null) return;
    const known = this.gaps.get(at) ?? { before: [], after: [] };
    known[side].push(gap);
    this.gaps.set(at, known);
  }

  /** A part as it is set; none where nothing of it fits the choice. */
  section(part: ChosenPart, withGaps: boolean): ProductionSection[] {
    const { label } = part;
    const title = this.redactor.text(
      part.name ?? (part.kind === 'thread' ? this.titleOf(part.chosen) : PART_TITLES[part.kind])
    );
    switch (part.kind) {
      case 'thread':
        return [
          { kind: part.kind, label, title, thread: this.thread(part.chosen, title, withGaps) }
        ];
      case 'calls': {
        const calls = this.chooser.calls(part.ids).map((call) => this.call(call));
        return calls.length === 0 ? [] : [{ kind: part.kind, label, title, calls }];
      }
      case 'contacts': {
        const contacts = this.chooser.contacts(part.ids).map((contact) => this.contact(contact));
        return contacts.length === 0 ? [] : [{ kind: part.kind, label, title, contacts }];
      }
      case 'files': {
        const files = part.files.map((file) => this.fileAlone(file));
        return files.length === 0 ? [] : [{ kind: part.kind, label, title, files }];
      }
      case 'gaps':
        return [{ kind: part.kind, label, title, gaps: part.gaps.map((gap) => this.loneGap(gap)) }];
    }
  }

  private titleOf(chosen: ChosenSection): string {
    const names = othersOf(chosen).map((id) => this.input.nameOf(id).name);
    return chosen.section.title ?? (names.join(', ') || 'Conversation');
  }

  private loneGap(gap: Gap): ProductionGap {
    const section = this.input.sections.find(({ threads }) => threads.includes(gap.thread ?? ''));
    const who = section ? this.redactor.text(this.titleOf({ section, lines: [] })) : null;
    return { ...this.gap(gap), who };
  }

  private gap({ count, from, to, reason }: Gap): ProductionGap {
    const [after, before] = [moment(from), moment(to)];
    return { who: null, count, from: after, to: before, reason: shown(this.redactor.text(reason)) };
  }

  private thread(
    { section, lines }: ChosenSection,
    title: Text,
    withGaps: boolean
  ): ProductionThread {
    const before = new Map<string, ProductionGap[]>();
    const atEnd: ProductionGap[] = [];
    const put = (message: string, gaps: ProductionGap[]): void => {
      const id = this.redactor.id(message);
      before.set(id, [...(before.get(id) ?? []), ...gaps]);
    };
    for (const [i, { message }] of withGaps ? lines.entries() : []) {
      const gaps = this.gaps.get(message.id);
      if (!gaps) continue;
      put(
        message.id,
        gaps.before.map((gap) => this.gap(gap))
      );
      const next = lines[i + 1]?.message.id;
      if (next === undefined) atEnd.push(...gaps.after.map((gap) => this.gap(gap)));
      else
        put(
          next,
          gaps.after.map((gap) => this.gap(gap))
        );
    }
    const isJoined = new Set(lines.map(({ message }) => message.store)).size > 1;
    const names = othersOf({ section, lines }).map((id) => this.input.nameOf(id));
    return {
      id: this.redactor.id(section.id),
      title,
      participants: names.map(({ name, address }) => ({
        name: this.redactor.text(name),
        address: this.redactor.text(address)
      })),
      isGroup: section.isGroup,
      lines: lines.map(({ message, line, isContext }) =>
        this.line(message, line, isContext, isJoined)
      ),
      gapsBefore: before,
      gapsAtEnd: atEnd,
      of: section.messages.length
    };
  }

  private line(
    message: Message,
    number: number,
    isContext: boolean,
    isJoined: boolean
  ): ProductionLine {
    const { redactor, input } = this;
    const { name, address } = input.nameOf(message.sender);
    // Of a message that is covered whole nothing stays but when it was sent, and by whom.
    const isCovered = redactor.lineCode(message.id) !== null;
    const place = onEarth(message.location);
    const source = this.sourceOf(message.proofs[0]?.source ?? message.store);
    const path = input.stores?.get(message.store);
    const store = path === undefined ? null : shown(redactor.text(path));
    return {
      number,
      id: redactor.id(message.id),
      at: moment(message.sentAt),
      sender: redactor.text(message.direction === 'system' ? '' : this.told(name, address)),
      address: redactor.text(message.direction === 'system' ? '' : address),
      direction: message.direction,
      body: redactor.body(message),
      subject: isCovered ? [] : redactor.text(message.subject ?? '', message.id),
      state: message.state,
      certainty: message.certainty,
      reasons: message.reasons.map((reason) => shown(redactor.text(reason, message.id))),
      proofs: this.proofs(message.proofs, message.id),
      source: isJoined && store !== null ? `${source}: ${store}` : source,
      store,
      attachments: message.attachments.map((id) => this.file(id, message.id)),
      replyTo: this.reply(message),
      reactions: (isCovered ? [] : message.reactions).map(({ person, text, at }) => ({
        who: redactor.text(input.nameOf(person).name),
        text: redactor.text(text, message.id),
        at: moment(at)
      })),
      place:
        !place || isCovered
          ? null
          : { ...place, label: redactor.text(place.label ?? '', message.id) },
      earlierOf: this.lineOf(message.replaces),
      isContext,
      isCut: isTornText(message),
      refers: {
        deliveredAt: moment(message.deliveredAt),
        readAt: moment(message.readAt),
        purgeAt: moment(message.purgeAt),
        senderId: this.idOf(message.sender),
        replyTo: this.idOf(message.replyTo),
        replaces: this.idOf(message.replaces)
      }
    };
  }

  private idOf(id: string | null): string | null {
    return id === null ? null : this.redactor.id(id);
  }

  /** A name by which its bearer can be told from others of that name. */
  private told(name: string, address: string): string {
    return this.ambiguous.has(name) && address !== '' && address !== name
      ? `${name} (${address})`
      : name;
  }

  private sourceOf(id: string): string {
    const source = sourceIn(id);
    return this.sourceNames.get(source) ?? this.sourceNames.get(id) ?? source;
  }

  /** Messages by the checksum of each file that came with them. */
  private bySum: Map<string, Carrying[]> | null = null;

  private carriersOf(file: Attachment | FileRecord): Carrying[] {
    const { attachments, sections } = this.input;
    if (!this.bySum) {
      this.bySum = new Map();
      for (const section of sections)
        for (const { message } of section.messages)
          for (const sum of new Set(message.attachments.map((id) => attachments.get(id)?.sha256)))
            if (sum) this.bySum.set(sum, [...(this.bySum.get(sum) ?? []), { message, section }]);
    }
    const same = (file.sha256 !== null && this.bySum.get(file.sha256)) || [];
    if (!('message' in file) || same.some(({ message }) => message.id === file.message))
      return same;
    const message = this.all.get(file.message);
    const section = sections.find(({ threads }) => message && threads.includes(message.thread));
    return message && section ? [{ message, section }, ...same] : same;
  }

  /** A file that stands by itself, with what the messages say that carry it. */
  private fileAlone(found: Attachment | FileRecord): ProductionFile {
    const carriers = this.carriersOf(found).map(({ message, section }) => {
      const { name, address } = this.input.nameOf(message.sender);
      return {
        message: this.redactor.id(message.id),
        line: this.numbers.get(message.id) ?? null,
        at: moment(message.sentAt),
        sender: this.redactor.text(message.direction === 'system' ? '' : this.told(name, address)),
        conversation: this.redactor.text(this.titleOf({ section, lines: [] })),
        state: message.state
      };
    });
    const file = this.fileFrom(found.id, found);
    const state = mostPresent(carriers.map((carrier) => carrier.state)) ?? file.state;
    return { ...file, carriers, state };
  }

  private file(id: string, message: string): ProductionFile {
    return this.fileFrom(id, this.input.attachments.get(id), message);
  }

  private fileFrom(
    id: string,
    found: Attachment | FileRecord | undefined,
    of?: string
  ): ProductionFile {
    const { redactor } = this;
    const message = of ?? (found && 'message' in found ? found.message : undefined);
    const ofLine = message === undefined ? null : redactor.lineCode(message);
    const code = redactor.fileCode(id) ?? ofLine;
    const name: Text =
      code === null ? redactor.text(found?.name ?? 'unnamed', message) : [{ code }];
    return {
      id: redactor.id(id),
      name,
      mime: found?.mime ?? null,
      bytes: code === null ? (found?.bytes ?? null) : null,
      sha256: code === null ? (found?.sha256 ?? null) : null,
      state: found?.state ?? 'live',
      code,
      areas: redactor.areasOf(id),
      byHand: found !== undefined && 'byHand' in found && found.byHand !== undefined,
      carriers: []
    };
  }

  /** Paths of files can hold what is covered. */
  private proofs(proofs: readonly Proof[], message?: string): Proof[] {
    const { redactor } = this;
    // A path is told of a covered message as well: it is the store's and not the message's.
    const isCovered = message !== undefined && redactor.lineCode(message) !== null;
    const of = isCovered ? undefined : message;
    return proofs.map((proof) => ({
      ...proof,
      source: redactor.id(proof.source),
      path: shown(redactor.text(proof.path, of))
    }));
  }

  private reply({ replyTo }: Message): ProductionLine['replyTo'] {
    if (replyTo === null) return null;
    const answered = this.all.get(this.shown(replyTo) ?? replyTo);
    const line = this.lineOf(replyTo);
    if (!answered) return line === null ? null : { line, quote: [] };
    // Words of a message that was not chosen are none of the record.
    if (line === null) return { line, quote: [] };
    return { line, quote: cut(this.redactor.body(answered), QUOTE) };
  }

  private call(call: Call): ProductionCall {
    const { name, address } = this.input.nameOf(call.person);
    return {
      id: this.redactor.id(call.id),
      who: this.redactor.text(name),
      address: this.redactor.text(address),
      direction: call.direction,
      at: moment(call.at),
      seconds: duration(call.seconds),
      state: call.state,
      certainty: call.certainty,
      source: this.sourceOf(call.proofs[0]?.source ?? call.store),
      proofs: this.proofs(call.proofs)
    };
  }

  private contact(contact: Contact): ProductionContact {
    const { redactor } = this;
    // Of a covered person's card every field is covered.
    const code = redactor.contactCode(contact.id);
    const text = (field: string | null): Text =>
      code === null || field === null || field === '' ? redactor.text(field ?? '') : [{ code }];
    return {
      id: redactor.id(contact.id),
      name: text(contact.name),
      phones: contact.phones.map(text),
      emails: contact.emails.map(text),
      organisation: text(contact.organisation),
      note: text(contact.note),
      state: contact.state,
      certainty: contact.certainty,
      source: this.sourceOf(contact.proofs[0]?.source ?? contact.store),
      proofs: this.proofs(contact.proofs)
    };
  }
}

/** The first and the last moment of the years 1 to 9999, which every calendar can write. */
const [EARLIEST, LATEST] = [-62_135_596_800_000, 253_402_300_799_999];

/** A moment that calendars can write; null for what is none. */
function moment(at: number | null): number | null {
  return at !== null && at >= EARLIEST && at <= LATEST ? at : null;
}

/** Seconds that a call can have lasted; null for what is none. */
function duration(seconds: number | null): number | null {
  return seconds !== null && seconds >= 0 && seconds < 1e8 ? seconds : null;
}

/** A place on the earth; null for what is none. */
function onEarth(place: Message['location']): Message['location'] {
  const isPlace = place !== null && Math.abs(place.lat) <= 90 && Math.abs(place.lon) <= 180;
  return isPlace ? place : null;
}

/** Names that more than one individual of a case has. */
function namesOfSeveral({ people, nameOf, membersOf }: ProductionInput): Set<string> {
  const bearers = new Map<string, string>();
  const several = new Set<string>();
  for (const { id } of people) {
    const { name } = nameOf(id);
    const individual = [...(membersOf?.(id) ?? [id])].sort()[0] ?? id;
    const known = bearers.get(name);
    if (known !== undefined && known !== individual) several.add(name);
    bearers.set(name, individual);
  }
  return several;
}

/** A text that is to be covered everywhere and stands nowhere is a slip of whoever asked for it. @throws RedactionError */
function refuseUnfound(input: ProductionInput, { redactions, title }: Settings): void {
  const open = new Map(
    redactions.flatMap((one): [string, Secrets][] =>
      'text' in one ? [[one.text, new Secrets([one])]] : []
    )
  );
  if (open.size === 0) return;
  for (const text of textsOf(input, title ?? '')) {
    for (const [wanted, secrets] of open) if (secrets.firstIn(text)) open.delete(wanted);
    if (open.size === 0) return;
  }
  const [text] = open.keys();
  throw new RedactionError(`The text “${text}” is to be covered and stands nowhere in the case.`);
}

/** Every text of a case that may be shown. */
function* textsOf(input: ProductionInput, title: string): Generator<string> {
  yield* [title, input.caseName, ...input.sources.map(({ name }) => name)];
  for (const { title, messages } of input.sections) {
    yield title ?? '';
    for (const { message } of messages) {
      yield message.body;
      yield message.subject ?? '';
      for (const { text } of message.reactions) yield text;
      yield message.location?.label ?? '';
      for (const { path } of message.proofs) yield path;
    }
  }
  for (const { name, addresses } of input.people) yield* [name ?? '', ...addresses];
  for (const { name, path } of input.attachments.values()) yield* [name ?? '', path ?? ''];
  for (const { name, phones, emails, organisation, note } of input.contacts)
    yield* [name ?? '', ...phones, ...emails, organisation ?? '', note ?? ''];
  for (const { path } of input.files) yield path;
  for (const { reason } of input.gaps) yield reason;
}

/** The beginning of a text; bars stay whole. */
function cut(text: Text, most: number): Text {
  const out: Text[number][] = [];
  let left = most;
  for (const part of text) {
    if (left <= 0) return [...out, { text: ' …' }];
    if ('code' in part) {
      out.push(part);
      continue;
    }
    const letters = [...part.text.replace(/\s+/g, ' ')];
    out.push({ text: letters.slice(0, left).join('') + (letters.length > left ? ' …' : '') });
    left -= letters.length;
  }
  return out;
}
