/** Holds a pass while it is closed. Pausing is not stopping: see `AbortSignal` for that. */
export class PauseGate {
  private closed = false;
  private waiting: (() => void)[] = [];

  pause(): void {
    this.closed = true;
  }

  resume(): void {
    this.closed = false;
    for (const go of this.waiting.splice(0)) go();
  }

  get paused(): boolean {
    return this.closed;
  }

  /** Resolves when the gate is open. */
  async pass(): Promise<void> {
    while (this.closed) await new Promise<void>((go) => this.waiting.push(go));
  }
}
