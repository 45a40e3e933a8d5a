/** Milliseconds after which a lock that is held is another tab's. */
const PATIENCE = 600;

/** What a tab says when another one takes the sources of its case. */
const ELSEWHERE =
  'Another tab has this case open and looks after its sources and examinations. Do it there, or close that tab.';

/**
 * One tab at a time takes sources, passes and copies of a case; what is read,
 * chosen and named is shared by all. The browser gives the lock on to the next
 * tab when one is closed, also when it crashes.
 */
export class CaseOwner {
  private held = false;

  /** @param taken called when the lock comes later, because the tab before was closed */
  constructor(
    private readonly caseId: string,
    private readonly taken: () => void
  ) {}

  get isOwner(): boolean {
    return this.held;
  }

  /** Takes the lock where it is free or soon will be, else waits for it without being waited for. */
  async claim(): Promise<void> {
    const name = `ombudsman case ${this.caseId}`;
    await new Promise<void>((told, fail) => {
      const hold = (): Promise<never> => {
        this.held = true;
        told();
        return forever();
      };
      // A page that is loaded again finds the lock of its own worker, which is just ending.
      navigator.locks
        .request(name, { signal: AbortSignal.timeout(PATIENCE) }, hold)
        .catch((error: unknown) => (isTimeUp(error) ? told() : fail(error)));
    });
    if (this.held) return;
    void navigator.locks.request(name, () => {
      this.held = true;
      this.taken();
      return forever();
    });
  }

  /** Why it cannot be done here. */
  readonly reason = ELSEWHERE;

  /** @throws Error where another tab owns the case */
  demand(): void {
    if (!this.held) throw new Error(ELSEWHERE);
  }
}

function isTimeUp(error: unknown): boolean {
  return error instanceof DOMException && /^(TimeoutError|AbortError)$/.test(error.name);
}

/** Held as long as the worker lives. */
function forever(): Promise<never> {
  return new Promise(() => undefined);
}
