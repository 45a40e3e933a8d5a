import type { CaseIndex, Held, KeptAttachment, Naming } from '$core/case';
import type { Redaction } from '$core/produce';
import type { RedactionRow } from '../api/protocol';

/** Says of redactions what they cover, and where. */
export class RedactionRows {
  private constructor(
    private readonly index: CaseIndex,
    private readonly naming: Naming,
    private readonly attachments: ReadonlyMap<string, KeptAttachment>,
    /** The lines that redactions are in, by the ids of their messages. */
    private readonly lines: ReadonlyMap<string, Held>
  ) {}

  /** Reads the lines that redactions are in. */
  static async of(
    index: CaseIndex,
    naming: Naming,
    redactions: readonly Redaction[]
  ): Promise<RedactionRows> {
    const isOfFile = redactions.some((one) => 'attachment' in one);
    const attachments = isOfFile ? await index.attachments() : new Map<string, KeptAttachment>();
    const ids = redactions.flatMap((one) => messageOf(one, attachments) ?? []);
    const lines = new Map<string, Held>();
    for (const [id, place] of await index.locate(ids)) lines.set(id, await index.held(place));
    return new RedactionRows(index, naming, attachments, lines);
  }

  all(redactions: readonly Redaction[]): RedactionRow[] {
    return redactions.map((redaction) => this.row(redaction));
  }

  /** Number of the line that a redaction is in; null where it holds everywhere. */
  lineOf(redaction: Redaction | undefined): number | null {
    return (redaction && this.held(redaction)?.line) ?? null;
  }

  private held(redaction: Redaction): Held | undefined {
    const id = messageOf(redaction, this.attachments);
    return id === undefined ? undefined : this.lines.get(id);
  }

  private row(redaction: Redaction): RedactionRow {
    const held = this.held(redaction);
    const near = held && this.index.correspondentOf(held.message.thread);
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
      const name = this.attachments.get(redaction.attachment)?.attachment.name ?? 'a file';
      const what = 'whole' in redaction ? name : `part of ${name}`;
      return held ? `${what} in ${where}` : what;
    }
    if ('whole' in redaction) return `all of ${where}`;
    const words = held?.message.body.slice(redaction.from, redaction.to) ?? '';
    return `“${words.length > 40 ? `${words.slice(0, 40)}…` : words}” in ${where}`;
  }
}

/** The message that a redaction is in; undefined where it holds everywhere. */
function messageOf(
  redaction: Redaction,
  attachments: ReadonlyMap<string, KeptAttachment>
): string | undefined {
  if ('message' in redaction) return redaction.message;
  if (!('attachment' in redaction)) return undefined;
  return attachments.get(redaction.attachment)?.attachment.message;
}
