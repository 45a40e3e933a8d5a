import type { CopyDepth, CopyFault, CopyWire } from '../core/acquire';

/** One thing that must hold before a device can be copied. */
export interface NeedView {
  id: string;
  title: string;
  state: 'holds' | 'missing' | 'asked' | 'unanswered' | 'not-needed';
  /** How it stands, in a few words. */
  told: string;
  /** What mends it: an act of the bench with the words for its button; null where nothing is to be done. */
  mend: { act: string; label: string } | null;
}

/** Whether a copy waits for it. */
export function isOpen({ state }: NeedView): boolean {
  return state !== 'holds' && state !== 'not-needed';
}

/** What a copy of a depth yields on a device. */
export interface DepthView {
  depth: CopyDepth;
  live: string;
  deletedRows: string;
  deletedFiles: string;
  changes: string;
  /** At the device's own rate. */
  seconds: number;
  bytes: number;
  /** Why it is not to be had on this device; null where it is. */
  why: string | null;
}

/** What a device asks, to be answered as its owner would. */
export interface QuestionView {
  heading: string;
  text: string;
  /** Words for the field that an answer needs; null where none does. */
  field: string | null;
  allow: string;
  /** Null where it cannot be refused. */
  refuse: string | null;
  /** Milliseconds after which it is withdrawn; null when it stays. */
  lapses: number | null;
}

export interface SnapshotView {
  id: string;
  device: string;
  system: string;
  /** ISO 8601, UTC. */
  at: string;
  bytes: number;
  /** Opens it; told because it is simulated. Null for one that is not encrypted. */
  password: string | null;
}

/** A device, reader or account as the list of the bench shows it. */
export interface DeviceView {
  id: string;
  kind: 'handset' | 'card-reader' | 'vault';
  name: string;
  /** Model, system and serial, or what stands for them. */
  detail: string;
  /** The same with what else tells it from others. */
  heading: string;
  /** In two or three words: plugged in, signed in, PIN needed. */
  status: string;
  facts: Record<string, string>;
  needs: Record<CopyDepth, NeedView[]>;
  depths: DepthView[];
  kinds: readonly string[];
  question: QuestionView | null;
  /** What was done to it, newest last. */
  done: { at: string; text: string }[];
  faults: readonly CopyFault[];
  /** The fault that the next copy is to meet. */
  armed: CopyFault | null;
  /** Told because it is simulated; null where there is none. */
  key: string | null;
  keyName: string | null;
  snapshots: SnapshotView[] | null;
  /** Snapshots that the vault dropped because it keeps only the newest. */
  dropped: number;
  /** Messages can be put back into its store. */
  takesMessages: boolean;
  /** Messages that were put back and can be taken out again; 0 for none. */
  putBack: number;
}

/** Something is refused by the device, in one sentence. */
export class BenchRefusal extends Error {
  override readonly name = 'BenchRefusal';

  constructor(
    override readonly message: string,
    readonly reason: 'not-possible' | 'key-needed' | 'wrong-key' = 'not-possible'
  ) {
    super(message);
  }
}

/** One thing that is done to a device. */
export interface BenchAct {
  act: string;
  /** Passcode, PIN, password, code, or the name of a fault. */
  value?: string | undefined;
}

export interface CopyRequest {
  depth: CopyDepth;
  /** Null for all. */
  kinds: readonly string[] | null;
}

/** A device of the bench. */
export interface BenchDevice {
  readonly id: string;
  view(): Promise<DeviceView>;
  /** @throws BenchRefusal */
  act(act: BenchAct): Promise<void>;
  /** Does everything that must hold for a depth, as a technician with the key would. @throws BenchRefusal */
  prepare(depth: CopyDepth, key: string | null): Promise<void>;
  /** The way to its data. With `isPaced` it takes as long as such a device would. */
  wire(request: CopyRequest, isPaced: boolean): CopyWire;
  reset(): void;
}

/** Part of a copy at which a fault that was switched on comes up. */
export const FAULT_AT = 0.45;

/** The first line of what a key file holds. */
export function firstLine(key: string | null): string | null {
  return key === null ? null : (key.split(/\r?\n/)[0] ?? '');
}
