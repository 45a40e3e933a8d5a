import type { TextEncoding } from '../../host';
import { STATES, type Message } from '../model';
import { Dictionary, Growing, Interned } from './growing';
import type {
  BatchContext,
  IdForm,
  MessageBatch,
  MessageExtra,
  ProofForm,
  ReasonForm
} from './model';
import { TextHeap } from './text-heap';

/** A row that says nothing but what every message says; unknown times are NaN. */
export interface PlainMessage {
  context: BatchContext;
  sentAt: number;
  deliveredAt: number;
  readAt: number;
  /** Index in `STATES`. */
  state: number;
  certainty: number;
  idForm: IdForm;
  idNumber: number;
  reasonForm: ReasonForm;
  reasonNumber: number;
}

const FIRST = 512;
const LONE_SURROGATE = /\p{Surrogate}/u;

/** Puts messages into columns, from rows as they are or from records. */
export class BatchBuilder {
  count = 0;
  private readonly contexts = new Dictionary<BatchContext>();
  private readonly context = new Growing(Uint32Array, FIRST);
  private readonly sentAt = new Growing(Float64Array, FIRST);
  private readonly state = new Growing(Uint8Array, FIRST);
  private readonly certainty = new Growing(Uint8Array, FIRST);
  private readonly idForms = new Dictionary<IdForm>();
  private readonly idForm = new Growing(Uint32Array, FIRST);
  private readonly idNumber = new Growing(Float64Array, FIRST);
  private readonly heap = new TextHeap();
  private readonly ends = new Growing(Uint32Array, FIRST);
  private extras: [number, MessageExtra][] = [];
  private readonly deliveredAt = new Growing(Float64Array, FIRST);
  private readonly readAt = new Growing(Float64Array, FIRST);
  private readonly reasonForms = new Dictionary<ReasonForm>();
  private readonly reasonForm = new Growing(Uint32Array, FIRST);
  private readonly reasonNumber = new Growing(Float64Array, FIRST);
  private readonly proofEnds = new Growing(Uint32Array, FIRST);
  private readonly proofForms = new Dictionary<ProofForm>();
  private readonly proofForm = new Growing(Uint32Array, FIRST);
  private readonly page = new Growing(Uint32Array, FIRST);
  private readonly offset = new Growing(Float64Array, FIRST);
  private readonly length = new Growing(Float64Array, FIRST);

  private readonly knownContexts = new Interned<BatchContext>();
  private readonly knownIds = new Interned<IdForm>();
  private readonly knownReasons = new Interned<ReasonForm>();
  private readonly knownProofs = new Interned<ProofForm>();

  constructor(readonly store: string) {}

  /** Bytes of text that there are. */
  get textSize(): number {
    return this.heap.length;
  }

  /** Begins with the text of a message, which {@link plain} completes. False, with nothing added, when it is not well formed. */
  text(bytes: Uint8Array, start: number, end: number, encoding: TextEncoding): boolean {
    return this.heap.add(bytes, start, end, encoding);
  }

  /** @param page 0 where there is none. */
  proof(form: ProofForm, page: number, offset: number, length: number): void {
    this.proofForm.push(this.proofForms.place(form));
    this.page.push(page);
    this.offset.push(offset);
    this.length.push(length);
  }

  /** Completes a message whose text and proofs were added. */
  plain(message: PlainMessage): void {
    this.context.push(this.contexts.place(message.context));
    this.sentAt.push(message.sentAt);
    this.state.push(message.state);
    this.certainty.push(message.certainty);
    this.idForm.push(this.idForms.place(message.idForm));
    this.idNumber.push(message.idNumber);
    this.ends.push(this.heap.length);
    this.deliveredAt.push(message.deliveredAt);
    this.readAt.push(message.readAt);
    this.reasonForm.push(this.reasonForms.place(message.reasonForm));
    this.reasonNumber.push(message.reasonNumber);
    this.proofEnds.push(this.proofForm.length);
    this.count++;
  }

  /** What the message that is completed next has beside what all have. */
  extra(extra: MessageExtra): void {
    this.extras.push([this.count, extra]);
  }

  /** Adds a record. */
  add(message: Message): void {
    const { body, proofs } = message;
    const isWell = !LONE_SURROGATE.test(body);
    if (isWell) this.heap.addString(body);
    const extra = extraOf(message);
    if (!isWell) this.extra({ ...extra, body });
    else if (saysMore(extra)) this.extra(extra);
    for (const { source, path, method, page, offset, length } of proofs) {
      const key = `${method}\u0000${source}\u0000${path}`;
      const form = this.knownProofs.of(key, () => ({ source, path, method }));
      this.proof(form, page ?? 0, offset, length);
    }
    this.plain(this.plainOf(message));
  }

  private plainOf(message: Message): PlainMessage {
    const { thread, sender, direction, sentAt, deliveredAt, readAt, state, certainty } = message;
    const key = `${direction}\u0000${thread}\u0000${sender ?? '\u0000'}`;
    const { id, number } = splitId(message.id);
    const prefix = number === null ? 'none' : 'decimal';
    const reasons = JSON.stringify(message.reasons).slice(1, -1);
    return {
      context: this.knownContexts.of(key, () => ({ thread, sender, direction })),
      sentAt: sentAt ?? NaN,
      deliveredAt: deliveredAt ?? NaN,
      readAt: readAt ?? NaN,
      state: STATES.indexOf(state),
      certainty,
      idForm: this.knownIds.of(`${prefix}${id}`, () => ({ prefix: id, number: prefix })),
      idNumber: number ?? NaN,
      reasonForm: this.knownReasons.of(reasons, () => ({
        before: reasons,
        after: '',
        hasNumber: false
      })),
      reasonNumber: NaN
    };
  }

  /** What was added, in memory that the next messages are put into as well. */
  view(): MessageBatch {
    return this.columns((column) => column.view());
  }

  /** What was added since the last call, in memory of its own. */
  take(): MessageBatch {
    const batch = this.columns((column) => column.copy());
    batch.texts.text = this.heap.view().slice();
    this.clear();
    return batch;
  }

  private columns(
    of: <C extends Float64Array | Uint32Array | Uint8Array>(c: Growing<C>) => C
  ): MessageBatch {
    return {
      store: this.store,
      count: this.count,
      lines: {
        contexts: this.contexts.list,
        context: of(this.context),
        sentAt: of(this.sentAt),
        state: of(this.state),
        certainty: of(this.certainty)
      },
      texts: {
        idForms: this.idForms.list,
        idForm: of(this.idForm),
        idNumber: of(this.idNumber),
        text: this.heap.view(),
        ends: of(this.ends),
        extras: this.extras
      },
      origins: {
        deliveredAt: of(this.deliveredAt),
        readAt: of(this.readAt),
        reasonForms: this.reasonForms.list,
        reasonForm: of(this.reasonForm),
        reasonNumber: of(this.reasonNumber),
        proofEnds: of(this.proofEnds),
        proofForms: this.proofForms.list,
        proofForm: of(this.proofForm),
        page: of(this.page),
        offset: of(this.offset),
        length: of(this.length)
      }
    };
  }

  /** Begins anew in the same memory. */
  clear(): void {
    this.count = 0;
    for (const dictionary of [this.contexts, this.idForms, this.reasonForms, this.proofForms])
      dictionary.clear();
    this.extras = [];
    this.heap.length = 0;
    for (const column of this.all()) column.length = 0;
  }

  private all(): { length: number }[] {
    return [
      this.context,
      this.sentAt,
      this.state,
      this.certainty,
      this.idForm,
      this.idNumber,
      this.ends,
      this.deliveredAt,
      this.readAt,
      this.reasonForm,
      this.reasonNumber,
      this.proofEnds,
      this.proofForm,
      this.page,
      this.offset,
      this.length
    ];
  }
}

function extraOf(message: Message): MessageExtra {
  const { subject, purgeAt, replaces, attachments, replyTo, reactions, location } = message;
  return { subject, purgeAt, replaces, attachments, replyTo, reactions, location };
}

function saysMore(extra: MessageExtra): boolean {
  const { subject, purgeAt, replaces, attachments, replyTo, reactions, location } = extra;
  return (
    subject !== null ||
    purgeAt !== null ||
    replaces !== null ||
    replyTo !== null ||
    location !== null ||
    attachments.length > 0 ||
    reactions.length > 0
  );
}

/** An id and the whole number that it ends in, if it does. */
function splitId(id: string): { id: string; number: number | null } {
  const digits = /(?:0|[1-9]\d{0,14})$/.exec(id)?.[0];
  if (digits === undefined || /\d$/.test(id.slice(0, -digits.length))) return { id, number: null };
  return { id: id.slice(0, -digits.length), number: Number(digits) };
}
