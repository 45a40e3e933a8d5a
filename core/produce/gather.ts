import { OWNER, type Attachment, type Gap, type Message } from '../records';
import { chooseCalls, chooseContacts, chooseLines, type ChosenSection } from './choose';
import type { ProductionInput } from './input';
import {
  isTornText,
  type Production,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine,
  type ProductionThread
} from './model';
import { shown, type Text } from './parts';
import { Redactor } from './redact';
import type { Settings } from './settings';

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
  const chosen = chooseLines(input, settings.choose);
  const all = new Map(
    input.sections.flatMap(({ messages }) =>
      messages.map(({ message }): [string, Message] => [message.id, message])
    )
  );
  const redactor = new Redactor(settings.redactions, all, input.attachments);
  const said = (text: string): string => shown(redactor.text(text));
  const gathering = new Gathering(input, redactor, chosen, all);
  return {
    redactor,
    production: {
      head: {
        caseName: said(input.caseName),
        title: said(settings.title ?? `Record of ${input.caseName}`),
        reference: settings.reference ? said(settings.reference) : null,
        preparedBy: settings.preparedBy ?? null,
        preparedFor: settings.preparedFor ?? null,
        made,
        zone: settings.zone ?? input.zone
      },
      sources: input.sources,
      threads: chosen.map((section) => gathering.thread(section, settings.choose.gaps)),
      ...gathering.others(settings),
      redactions: redactor.used()
    }
  };
}

class Gathering {
  private readonly numbers = new Map<string, number>();
  private readonly gaps = new Map<string, { before: Gap[]; after: Gap[] }>();
  private readonly sourceNames: ReadonlyMap<string, string>;

  constructor(
    private readonly input: ProductionInput,
    private readonly redactor: Redactor,
    chosen: readonly ChosenSection[],
    private readonly all: ReadonlyMap<string, Message>
  ) {
    for (const { lines } of chosen)
      for (const { message, line } of lines) this.numbers.set(message.id, line);
    for (const gap of input.gaps) this.place(gap);
    this.sourceNames = new Map(input.sources.map(({ id, name }) => [id, name]));
  }

  private place(gap: Gap): void {
    const [at, side] =
      gap.before !== null && this.numbers.has(gap.before)
        ? [gap.before, 'before' as const]
        : gap.after !== null && this.numbers.has(gap.after)
          ? [gap.after, 'after' as const]
          : [null, 'after' as const];
    if (at === null) return;
    const known = this.gaps.get(at) ?? { before: [], after: [] };
    known[side].push(gap);
    this.gaps.set(at, known);
  }

  thread({ section, lines }: ChosenSection, withGaps: boolean): ProductionThread {
    const before = new Map<string, ProductionGap[]>();
    const atEnd: ProductionGap[] = [];
    for (const [i, { message }] of withGaps ? lines.entries() : []) {
      const gaps = this.gaps.get(message.id);
      if (!gaps) continue;
      if (gaps.before.length > 0)
        before.set(message.id, [...(before.get(message.id) ?? []), ...gaps.before.map(gapOf)]);
      const next = lines[i + 1]?.message.id;
      if (gaps.after.length === 0) continue;
      if (next === undefined) atEnd.push(...gaps.after.map(gapOf));
      else before.set(next, [...gaps.after.map(gapOf), ...(before.get(next) ?? [])]);
    }
    const others = section.participants.filter((id) => id !== OWNER);
    const names = others.map((id) => this.input.nameOf(id));
    return {
      id: section.id,
      title: this.redactor.text(
        section.title ?? (names.map(({ name }) => name).join(', ') || 'Conversation')
      ),
      participants: names.map(({ name, address }) => ({
        name: this.redactor.text(name),
        address: this.redactor.text(address)
      })),
      isGroup: section.isGroup,
      lines: lines.map(({ message, line, isContext }) => this.line(message, line, isContext)),
      gapsBefore: before,
      gapsAtEnd: atEnd,
      of: section.messages.length
    };
  }

  private line(message: Message, number: number, isContext: boolean): ProductionLine {
    const { redactor, input } = this;
    const { name, address } = input.nameOf(message.sender);
    return {
      number,
      id: message.id,
      at: message.sentAt,
      sender: redactor.text(message.direction === 'system' ? '' : name),
      address: redactor.text(message.direction === 'system' ? '' : address),
      direction: message.direction,
      body: redactor.body(message),
      subject: redactor.text(message.subject ?? '', message.id),
      state: message.state,
      certainty: message.certainty,
      reasons: message.reasons,
      proofs: message.proofs,
      source: this.sourceOf(message.proofs[0]?.source ?? message.store),
      attachments: message.attachments.map((id) => this.file(id)),
      replyTo: this.reply(message),
      reactions: message.reactions.map(({ person, text, at }) => ({
        who: redactor.text(input.nameOf(person).name),
        text: redactor.text(text, message.id),
        at
      })),
      place: message.location && {
        ...message.location,
        label: redactor.text(message.location.label ?? '', message.id)
      },
      earlierOf: message.replaces === null ? null : (this.numbers.get(message.replaces) ?? null),
      isContext,
      isCut: isTornText(message)
    };
  }

  private sourceOf(id: string): string {
    const source = id.split('.')[0]!;
    return this.sourceNames.get(source) ?? this.sourceNames.get(id) ?? source;
  }

  private file(id: string): ProductionFile {
    const found: Attachment | undefined = this.input.attachments.get(id);
    const code =
      this.redactor.fileCode(id) ?? (found ? this.redactor.lineCode(found.message) : null);
    const name: Text = code === null ? this.redactor.text(found?.name ?? 'unnamed') : [{ code }];
    return {
      id,
      name,
      mime: found?.mime ?? null,
      bytes: code === null ? (found?.bytes ?? null) : null,
      sha256: code === null ? (found?.sha256 ?? null) : null,
      state: found?.state ?? 'live',
      code,
      areas: this.redactor.areasOf(id)
    };
  }

  private reply({ replyTo }: Message): ProductionLine['replyTo'] {
    if (replyTo === null) return null;
    const answered = this.all.get(replyTo);
    const line = this.numbers.get(replyTo) ?? null;
    if (!answered) return line === null ? null : { line, quote: [] };
    return { line, quote: cut(this.redactor.body(answered), QUOTE) };
  }

  others(settings: Settings): Pick<Production, 'calls' | 'contacts'> {
    const { redactor, input } = this;
    return {
      calls: chooseCalls(input, settings.choose).map((call) => {
        const { name, address } = input.nameOf(call.person);
        return {
          id: call.id,
          who: redactor.text(name),
          address: redactor.text(address),
          direction: call.direction,
          at: call.at,
          seconds: call.seconds,
          state: call.state,
          certainty: call.certainty,
          source: this.sourceOf(call.proofs[0]?.source ?? call.store),
          proofs: call.proofs
        };
      }),
      contacts: chooseContacts(input, settings.choose).map((contact) => ({
        id: contact.id,
        name: redactor.text(contact.name ?? ''),
        phones: contact.phones.map((phone) => redactor.text(phone)),
        emails: contact.emails.map((email) => redactor.text(email)),
        organisation: redactor.text(contact.organisation ?? ''),
        note: redactor.text(contact.note ?? ''),
        state: contact.state,
        certainty: contact.certainty,
        source: this.sourceOf(contact.proofs[0]?.source ?? contact.store),
        proofs: contact.proofs
      }))
    };
  }
}

function gapOf({ count, from, to, reason }: Gap): ProductionGap {
  return { count, from, to, reason };
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
