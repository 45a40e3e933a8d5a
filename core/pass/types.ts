import type { ByteSource } from '../bytes';
import type { Depth, Findings, Note, Source } from '../records';
import type { CountryCode } from '../threads';

/** One source of a case as it is handed to a pass. */
export interface SourceInput {
  id: string;
  name: string;
  /** Its files; paths are relative to the source. */
  files: ByteSource[];
}

/** SHA-256 over a stream of bytes, as the host provides it. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  /** Lower-case hex. */
  digest(): string;
}

export interface PassRequest {
  input: SourceInput;
  depth: Depth;
  /** Region of national telephone numbers; null to judge it from the store. */
  region: CountryCode | null;
  hasher: () => Promise<Hasher>;
  /** Report live messages before the search of freed space begins. */
  early: boolean;
  signal?: AbortSignal;
  gate?: PauseGate;
}

export type Stage = 'hash' | 'rows' | 'declarations' | 'freed' | 'messages';

/**
 * What a pass reports, in order. `progress` comes at most every 100 ms;
 * `found` carries everything known of a store and replaces what an earlier
 * one said of it; `done` is always the last.
 */
export type PassEvent =
  | { type: 'progress'; stage: Stage; fraction: number; bytes: number; found: number }
  | { type: 'source'; source: Source }
  | { type: 'found'; findings: Findings; final: boolean }
  | { type: 'note'; note: Note }
  | { type: 'done'; source: Source; stopped: boolean };

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
