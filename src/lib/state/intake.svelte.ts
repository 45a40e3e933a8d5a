import {
  intakeProblem,
  intakeSchema,
  planOf,
  timesOf,
  type Intake,
  type IntakeDocument,
  type Plan,
  type Times
} from '$core/plan';
import { keepIntake, keptIntake, logIntake } from '../storage/intake';
import type { IntakeRecord } from '../storage/schema';

export type IntakeAnswers = Omit<IntakeDocument, 'now'>;
export type CopyAnswers = NonNullable<IntakeAnswers['copies']>[number];

/** What came of the answers: a plan, or what is wrong with them. */
export type Outcome =
  { ok: true; intake: Intake; plan: Plan; times: Times } | { ok: false; problem: string };

/** Milliseconds after the last answer at which the log says which were given. */
const LOG_AFTER = 4000;

/** The answers of a case: kept as they are given, and planned with at once. */
export class IntakeDesk {
  answers = $state.raw<IntakeAnswers>({});
  done = $state.raw<ReadonlySet<string>>(new Set());
  sources = $state.raw<Record<string, string>>({});
  isLoaded = $state(false);
  /** The day of the plan. */
  readonly now = new Date().toISOString();
  private given = new Set<string>();
  private readonly relinked = new Map<string, string>();
  private kept: Promise<void> = Promise.resolve();
  private timer: ReturnType<typeof setTimeout> | undefined;

  readonly outcome: Outcome = $derived.by(() => {
    const checked = intakeSchema.safeParse({ ...this.answers, now: this.now });
    if (!checked.success) return { ok: false, problem: intakeProblem(checked.error) };
    const { data } = checked;
    return { ok: true, intake: data, plan: planOf(data), times: timesOf(data) };
  });

  constructor(
    private readonly caseId: string,
    private readonly fail: (error: unknown) => void
  ) {}

  async load(): Promise<void> {
    const { document, done, sources, unlogged } = await keptIntake(this.caseId);
    this.answers = document;
    this.done = new Set(done);
    this.sources = sources;
    this.isLoaded = true;
    // What was given before the page went.
    for (const answer of unlogged) this.given.add(answer);
    this.flush();
  }

  change(told: Partial<IntakeAnswers>, what: string): void {
    this.answers = { ...this.answers, ...told };
    this.given.add(what);
    this.keep();
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.flush(), LOG_AFTER);
  }

  tick(step: string): void {
    const done = new Set(this.done);
    if (!done.delete(step)) done.add(step);
    this.done = done;
    this.keep();
  }

  /** Says which source a copy became; none where it became none. */
  link(copy: string, source: string): void {
    this.relinked.set(copy, source);
    this.sources = this.withLinks(this.sources);
    this.keep();
  }

  /** Writes down which answers were given, before the page goes. */
  flush(): void {
    clearTimeout(this.timer);
    if (this.given.size === 0) return;
    const answers = [...this.given];
    this.given = new Set();
    logIntake(this.caseId, answers)
      .then(() => this.keep())
      .catch(this.fail);
  }

  /** Links as they are elsewhere, with those that were changed here. */
  private withLinks(sources: Record<string, string>): Record<string, string> {
    const links = { ...sources, ...Object.fromEntries(this.relinked) };
    return Object.fromEntries(Object.entries(links).filter(([, source]) => source !== ''));
  }

  /** One after the other: others link sources too. */
  private keep(): void {
    const { answers: document, done, given, caseId } = this;
    const told = { caseId, document, done: [...done], unlogged: [...given] };
    this.kept = this.kept
      .then(async () => {
        const { sources } = await keptIntake(caseId);
        const record: IntakeRecord = { ...told, sources: this.withLinks(sources) };
        await keepIntake(record);
      })
      .catch(this.fail);
  }
}
