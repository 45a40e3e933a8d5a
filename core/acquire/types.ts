/** How deep a copy goes: what a device hands out, its files, or its storage bit for bit. */
export const COPY_DEPTHS = ['logical', 'file-system', 'physical'] as const;
export type CopyDepth = (typeof COPY_DEPTHS)[number];

/** What a device says that a copy will hold, before anything is read. */
export interface CopyListing {
  device: string;
  /** Model, system, serial and whatever else names the device. */
  facts: Record<string, string>;
  depth: CopyDepth;
  /** Kinds of data; null where the depth knows none. */
  kinds: readonly string[] | null;
  files: readonly CopyFile[];
  /** Changes when anything on the device does, so that parts of two states are never joined. */
  state: string;
}

export interface CopyFile {
  /** Within the copy, with slashes. */
  path: string;
  /** In bytes. */
  size: number;
}

/** Part of a file, with the checksum that the device's side gave. */
export interface CopyPart {
  bytes: Uint8Array;
  /** SHA-256 in hex. */
  sha256: string;
}

/** Why a copy interrupted. */
export type CopyFault =
  | 'unplugged'
  | 'battery-empty'
  | 'permission-withdrawn'
  | 'no-room'
  | 'read-error'
  | 'connection-lost'
  | 'limit-reached'
  | 'card-removed'
  | 'not-ready'
  | 'damaged-in-transit';

/** A copy that broke off; what was verified stays and is taken up again. */
export class CopyError extends Error {
  override readonly name = 'CopyError';

  constructor(
    readonly fault: CopyFault,
    /** One sentence for the user. */
    override readonly message: string,
    /** File and offset at which it broke off; null before the first part. */
    readonly at: { path: string; offset: number } | null = null
  ) {
    super(message);
  }
}

/** The other side asks to wait before the next request. */
export class WaitError extends Error {
  override readonly name = 'WaitError';

  constructor(readonly milliseconds: number) {
    super(`The other side asks us to wait ${milliseconds} ms.`);
  }
}

/** The way to a device: within this process, or over a connection. */
export interface CopyWire {
  /** @throws CopyError when the device is not ready */
  list(): Promise<CopyListing>;
  /** @throws CopyError when the copy breaks off, WaitError when the device asks to wait */
  read(path: string, offset: number, length: number): Promise<CopyPart>;
}

/** One line of a copying log. */
export interface CopyLogEntry {
  /** ISO 8601, UTC. */
  at: string;
  what:
    | 'begun'
    | 'taken up again'
    | 'begun anew'
    | 'part'
    | 'file'
    | 'waited'
    | 'paused'
    | 'broke off'
    | 'stopped'
    | 'finished';
  detail: Record<string, unknown>;
}

/** Where a copy is put. Until it is finished it has another name, or is not shown. */
export interface CopyPlace {
  /** Lines of an earlier attempt that broke off; empty for a new copy. */
  log(): Promise<CopyLogEntry[]>;
  addToLog(entry: CopyLogEntry): Promise<void>;
  /** Bytes that are there of a file; 0 where there is none. */
  size(path: string): Promise<number>;
  read(path: string, offset: number, length: number): Promise<Uint8Array>;
  /** @throws CopyError with `no-room` when there is no room left */
  append(path: string, bytes: Uint8Array): Promise<void>;
  /** Leaves the first bytes of a file. */
  cut(path: string, size: number): Promise<void>;
  /** Gives the copy its name. */
  finish(): Promise<void>;
}

export type CopyEvent =
  | {
      type: 'progress';
      path: string;
      /** Bytes of the whole copy. */
      done: number;
      total: number;
      /** Bytes a second; null until it can be told. */
      rate: number | null;
      secondsLeft: number | null;
    }
  | { type: 'taken-up'; verified: number; total: number }
  | { type: 'waiting'; milliseconds: number }
  | { type: 'done'; files: CopiedFile[]; total: number };

export interface CopiedFile extends CopyFile {
  sha256: string;
}
