import type { Redaction } from '$core/produce';
import type { Message } from '$core/records';
import type { Held, Holdings, Naming } from './holdings';
import type { RedactionRow } from './protocol';

/** Says of redactions what they cover, and where. */
export class RedactionRows {
  constructor(
    private readonly holdings: Holdings,
    private readonly naming: Naming
  ) {}

  all(redactions: readonly Redaction[]): RedactionRow[] {
    return redactions.map((redaction) => this.row(redaction));
  }

  /** Those made in a message or its files. */
  of({ id, attachments }: Message, redactions: readonly Redaction[]): RedactionRow[] {
    return this.all(
      redactions.filter(
        (one) =>
          ('message' in one && one.message === id) ||
          ('attachment' in one && attachments.includes(one.attachment))
      )
    );
  }

  /** Number of the line that a redaction is in; null where it holds everywhere. */
  lineOf(redaction: Redaction | undefined): number | null {
    return (redaction && this.held(redaction)?.line) ?? null;
  }

  private held(redaction: Redaction): Held | undefined {
    if ('message' in redaction) return this.holdings.get(redaction.message);
    if (!('attachment' in redaction)) return undefined;
    const { message } = this.holdings.attachments.get(redaction.attachment) ?? {};
    return message === undefined ? undefined : this.holdings.get(message);
  }

  private row(redaction: Redaction): RedactionRow {
    const held = this.held(redaction);
    const near = held && this.holdings.correspondentOf(held.message.thread);
    return {
      redaction,
      code: redaction.code,
      text: this.text(redaction, held),
      goTo: held && near ? { correspondent: near.id, message: held.message.id } : null
    };
  }

  private text(redaction: Redaction, held: Held | undefined): string {
    const where = held?.line ? `line ${held.line}` : 'a line';
    if ('text' in redaction) return `“${redaction.text}” everywhere`;
    if ('person' in redaction) return `${this.naming.person(redaction.person)}, wherever named`;
    if ('attachment' in redaction) {
      const name = this.holdings.attachments.get(redaction.attachment)?.name ?? 'a file';
      const what = 'whole' in redaction ? name : `part of ${name}`;
      return held ? `${what} in ${where}` : what;
    }
    if ('whole' in redaction) return `all of ${where}`;
    const words = held?.message.body.slice(redaction.from, redaction.to) ?? '';
    return `“${words.length > 40 ? `${words.slice(0, 40)}…` : words}” in ${where}`;
  }
}
