import {
  BatchBuilder,
  STATES,
  type BatchContext,
  type IdForm,
  type PlainMessage,
  type ProofForm,
  type ReasonForm
} from '../records';
import {
  certaintyOf,
  judgeRow,
  liveMethod,
  LIVE_ROW,
  ofTable,
  placeKey,
  plainTime,
  ROW_NUMBER,
  surroundings,
  type FreedFacts,
  type LiveBounds,
  type PlainPlace,
  type PlainRows,
  type RecordCursor,
  type StoreProof,
  type Surroundings
} from '../profiles';

/** What the live rows of one table in one file share. */
interface LiveForms {
  table: string;
  file: string;
  id: IdForm;
  reasons: ReasonForm;
  proof: ProofForm;
}

/** What is known of a freed row beside its own values. */
interface FreedLine {
  /** Null where it follows from the row's place. */
  id: string | null;
  sentAt: number | null;
  context: BatchContext;
  bounds: LiveBounds;
  /** Whether its conversation has live lines. */
  linked: boolean;
}

const LIVE = STATES.indexOf('live');
const RECOVERED = STATES.indexOf('recovered');
const NO_CONTEXT: BatchContext = { thread: '', sender: null, direction: 'unknown' };
const NO_ID: IdForm = { prefix: '', number: 'none' };
const NO_REASONS: ReasonForm = { before: '', after: '', hasNumber: false };

/** Puts ordinary rows into columns straight from their bytes. */
export class RowWriter {
  readonly out: BatchBuilder;
  private lastLive: LiveForms | null = null;
  private readonly liveForms = new Map<string, LiveForms>();
  private readonly ids = new Map<string, IdForm>();
  private readonly proofs = new Map<string, ProofForm>();
  /** By table, and then by what {@link likeness} gives. */
  private readonly reasons = new Map<string, ReasonForm[]>();
  /** Filled anew for each row, for there are millions. */
  private readonly row: PlainMessage = {
    context: NO_CONTEXT,
    sentAt: NaN,
    deliveredAt: NaN,
    readAt: NaN,
    state: LIVE,
    certainty: 0,
    idForm: NO_ID,
    idNumber: NaN,
    reasonForm: NO_REASONS,
    reasonNumber: NaN
  };

  constructor(
    store: string,
    private readonly source: string
  ) {
    this.out = new BatchBuilder(store);
  }

  /** Adds one live row. False, with nothing added, when its text is not well formed. */
  live(
    rows: PlainRows,
    cursor: RecordCursor,
    place: PlainPlace,
    sentAt: number | null,
    context: BatchContext
  ): boolean {
    if (!this.text(rows, cursor)) return false;
    const forms = this.formsOf(rows.name, place.file);
    const { row, out } = this;
    row.context = context;
    row.state = LIVE;
    row.certainty = 100;
    row.idForm = forms.id;
    row.idNumber = place.rowid;
    row.reasonForm = forms.reasons;
    row.reasonNumber = place.rowid;
    this.times(rows, cursor, sentAt);
    out.proof(forms.proof, place.page, place.offset, place.length);
    out.plain(row);
    return true;
  }

  /** The same for a freed row, judged by the live rows around it. */
  freed(
    rows: PlainRows,
    cursor: RecordCursor,
    facts: FreedFacts,
    { id, sentAt, context, bounds, linked }: FreedLine
  ): boolean {
    if (!this.text(rows, cursor)) return false;
    const { row, out } = this;
    const [first] = facts.proofs;
    const around = surroundings(bounds, linked, sentAt);
    row.context = context;
    row.state = RECOVERED;
    row.certainty = certaintyOf(facts.score, around);
    row.idForm = id === null ? this.idOf(rows.name, first!.file) : { prefix: id, number: 'none' };
    row.idNumber = id === null ? first!.offset : NaN;
    row.reasonForm = this.reasonsOf(facts, bounds.columns, around);
    row.reasonNumber = row.reasonForm.hasNumber ? Number(facts.rowid) : NaN;
    this.times(rows, cursor, sentAt);
    for (const proof of facts.proofs)
      out.proof(this.proofOf(proof.file, proof.method), proof.page, proof.offset, proof.length);
    out.plain(row);
    return true;
  }

  private text(rows: PlainRows, { bytes, starts }: RecordCursor): boolean {
    return this.out.text(bytes, starts[rows.body]!, starts[rows.body + 1]!, rows.encoding);
  }

  private times(rows: PlainRows, cursor: RecordCursor, sentAt: number | null): void {
    this.row.sentAt = sentAt ?? NaN;
    this.row.deliveredAt = plainTime(rows.deliveredAt, cursor, rows) ?? NaN;
    this.row.readAt = plainTime(rows.readAt, cursor, rows) ?? NaN;
  }

  private formsOf(table: string, file: string): LiveForms {
    const { lastLive } = this;
    if (lastLive?.table === table && lastLive.file === file) return lastLive;
    const key = `${table}\u0000${file}`;
    let forms = this.liveForms.get(key);
    if (!forms) this.liveForms.set(key, (forms = this.makeLive(table, file)));
    return (this.lastLive = forms);
  }

  private makeLive(table: string, file: string): LiveForms {
    const of = JSON.stringify(` ${ofTable(table)}`).slice(1);
    return {
      table,
      file,
      id: { prefix: `${this.out.store}/${table}/`, number: 'decimal' },
      reasons: { before: `"${LIVE_ROW} `, after: of, hasNumber: true },
      proof: this.proofOf(file, liveMethod(file))
    };
  }

  private idOf(table: string, file: string): IdForm {
    const key = `${table}\u0000${file}`;
    let form = this.ids.get(key);
    if (!form) {
      const prefix = placeKey(table, { file, offset: 0 }).slice(0, -1);
      form = { prefix: `${this.out.store}/${prefix}`, number: 'hexadecimal' };
      this.ids.set(key, form);
    }
    return form;
  }

  private proofOf(path: string, method: StoreProof['method']): ProofForm {
    const key = `${method}\u0000${path}`;
    let form = this.proofs.get(key);
    if (!form) this.proofs.set(key, (form = { source: this.source, path, method }));
    return form;
  }

  /** The reasons of a complete freed row; its table has so many columns. */
  private reasonsOf(facts: FreedFacts, columns: number, around: Surroundings): ReasonForm {
    let known = this.reasons.get(facts.table);
    if (!known) this.reasons.set(facts.table, (known = []));
    return (known[likeness(facts, around)] ??= reasonForm(facts, columns, around));
  }
}

const MOST_PLACES = 16;

/** A number that complete freed rows of one table share when they differ in nothing but their row number. */
function likeness({ rebuilt, proofs, rowid, inferred }: FreedFacts, around: Surroundings): number {
  const { isLinked, isInTime } = around;
  const number = rowid === null ? 0 : inferred ? 1 : 2;
  const time = isInTime === null ? 0 : isInTime ? 1 : 2;
  const place = rebuilt * MOST_PLACES + proofs.length;
  return ((place * 3 + number) * 3 + time) * 2 + (isLinked ? 1 : 0);
}

/** The words come from {@link judgeRow} alone: here they are but cut at the number. */
function reasonForm(facts: FreedFacts, columns: number, around: Surroundings): ReasonForm {
  const { reasons } = judgeRow(facts, columns, around);
  const texts = reasons.map((reason) => JSON.stringify(reason));
  const at = reasons.findIndex((reason) => reason.startsWith(ROW_NUMBER));
  if (at < 0) return { before: texts.join(','), after: '', hasNumber: false };
  const from = `"${ROW_NUMBER} `.length;
  const before = [...texts.slice(0, at), texts[at]!.slice(0, from)].join(',');
  const rest = texts[at]!.slice(from + String(facts.rowid).length);
  return { before, after: [rest, ...texts.slice(at + 1)].join(','), hasNumber: true };
}
