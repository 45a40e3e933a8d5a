import type { ByteSource, Scratch } from '../host';
import type { Device, FileDeletion, Note } from '../records';

/** A file of a source as a listing shows it; its bytes are fetched only when it is opened. */
export interface ListedFile {
  /** Path within the source; a file inside an archive has the archive's path before its own. */
  path: string;
  /** The file of the source itself that holds it. */
  origin: string;
  /** Its bytes are those of `origin`, neither unpacked nor decrypted. */
  readonly verbatim: boolean;
  /** In bytes; null when only opening tells. */
  size: number | null;
  modifiedAt: number | null;
  createdAt: number | null;
  /** It is encrypted and its key is not known. */
  locked: boolean;
  /** Only of files that a medium no longer lists as its own. */
  readonly deleted?: FileDeletion;
  /** It is no file, but what no file of a medium claims. */
  readonly isUnallocated?: boolean;
  /** The first bytes, up to {@link HEAD_BYTES}, without unpacking the rest. */
  head(): Uint8Array;
  /** @throws PackageError when it cannot be unpacked or decrypted. */
  open(): Generator<PackageStep, ByteSource>;
}

/** Enough to tell a file's kind, and the header of a tar entry. */
export const HEAD_BYTES = 4100;

/** Progress of unlocking or unpacking; `done` and `total` in rounds or bytes. */
export interface PackageStep {
  stage: 'unlock' | 'unpack';
  done: number;
  total: number;
  /** Nothing goes on before that. */
  until?: Promise<unknown>;
}

/** What a package's opening needs from outside. */
export interface Opening {
  /** Passwords and hex keys, tried in turn. Never stored. */
  keys: readonly string[];
  scratch: Scratch;
  /** Told when a file turns out not to be what its package says of it. */
  doubt?: (note: Note) => void;
}

/** What a package is told by: the `kind` of a {@link PackageFormat}, or of a backup that its manifests tell. */
export type PackageKind = string;

/** A format of packages that are told by their first bytes. One file or folder beside the others, and one line in `formats/index.ts`. */
export interface PackageFormat {
  kind: PackageKind;
  /** What people call it, behind "a". */
  title: string;
  /** @param head the first bytes, up to {@link HEAD_BYTES} */
  begins(head: Uint8Array): boolean;
  /**
   * Lists what is in it, or unpacks the one file that is.
   * @param prefix what stands before the paths of its files
   * @throws PackageError where nothing of it can be read
   */
  open(source: ByteSource, prefix: string, opening: Opening): Generator<PackageStep, OpenedPackage>;
  /** Whether a file of unknown kind is one although its beginning is lost. */
  lies?(source: ByteSource): boolean;
  /** What it is, in a sentence, without a look at its files. */
  tell?(source: ByteSource): string;
}

/** An opened package: its files, and what it says of the device it came from. */
export interface OpenedPackage {
  kind: PackageKind;
  files: ListedFile[];
  device: Partial<Device>;
  notes: Note[];
  /** Why it could not be opened; its files are then missing or listed as locked. */
  lock: Lock | null;
}

export interface Lock {
  /** No key was given, or none of those given fits. */
  reason: 'key-needed' | 'wrong-key';
  /** What is asked for. */
  wants: 'password' | 'password-or-hex-key';
}

/** Thrown when a package's bytes are not what its format demands. */
export class PackageError extends Error {
  override readonly name = 'PackageError';
  constructor(
    readonly file: string,
    readonly offset: number,
    readonly reason: string
  ) {
    super(`${file}: offset ${offset}: ${reason}`);
  }
}

export function emptyPackage(kind: PackageKind): OpenedPackage {
  return { kind, files: [], device: {}, notes: [], lock: null };
}

/** A file whose bytes are at hand. A class, because sources list a hundred thousand of them. */
class PlainFile implements ListedFile {
  readonly createdAt = null;
  readonly locked = false;

  constructor(
    readonly path: string,
    public origin: string,
    private readonly source: ByteSource & { readonly modifiedAt?: number | null },
    private readonly time: number | null
  ) {}

  get verbatim(): boolean {
    return this.path === this.origin;
  }

  get size(): number {
    return this.source.size;
  }

  get modifiedAt(): number | null {
    return this.time ?? this.source.modifiedAt ?? null;
  }

  head(): Uint8Array {
    return this.source.read(0, HEAD_BYTES);
  }

  *open(): Generator<PackageStep, ByteSource> {
    return this.source;
  }
}

export function plainFile(
  path: string,
  source: ByteSource & { readonly modifiedAt?: number | null },
  modifiedAt: number | null = null
): ListedFile {
  return new PlainFile(path, path, source, modifiedAt);
}

export function warning(code: string, text: string, path: string | null): Note {
  return { level: 'warning', code, text, path };
}
