import { sha1 } from '@noble/hashes/legacy.js';
import { type ByteSource, SliceSource, toHex, u32le } from '../../host';
import { Database, type SqlValue } from '../../sqlite';
import {
  asBytes,
  asDict,
  asNumber,
  asText,
  asTime,
  type PlistValue,
  tryPlist,
  unarchive
} from '../plist';
import { safePath } from '../paths';
import {
  emptyPackage,
  HEAD_BYTES,
  type ListedFile,
  type Lock,
  type OpenedPackage,
  type Opening,
  PackageError,
  type PackageStep,
  warning
} from '../types';
import type { BackupPlace } from './find';
import { readMbdb } from './mbdb';
import type { Device } from '../../records';
import { CbcSource, unwrapKey } from '../keys/aes';
import { parseKeyBag, unlockKeyBag } from '../keys/keybag';

/** Files beside a backup's manifest: the lists by name, the stored files by their checksum. */
interface Beside {
  named: ReadonlyMap<string, ListedFile>;
  stored: ReadonlyMap<string, ListedFile>;
}

const ID = 40;

/** One look at a long listing: what ends in a checksum right below the folder is a stored file. */
function besideManifest(files: readonly ListedFile[], { folder }: BackupPlace): Beside {
  const named = new Map<string, ListedFile>();
  const stored = new Map<string, ListedFile>();
  const [flat, nested] = [folder.length + ID, folder.length + ID + 3];
  for (const file of files) {
    const { path } = file;
    if (!path.startsWith(folder)) continue;
    if (path.length === flat || path.length === nested) stored.set(path.slice(-ID), file);
    if (!path.includes('/', folder.length)) named.set(path, file);
  }
  return { named, stored };
}

const MOST_PLIST = 256 * 1024 * 1024;

/**
 * Opens a manifest backup: reads its listing and gives every file its real
 * path, `domain/relative path`, without touching the files themselves.
 */
export function* openBackup(
  place: BackupPlace,
  files: readonly ListedFile[],
  opening: Opening
): Generator<PackageStep, OpenedPackage> {
  const kind = place.layout === 'database' ? 'manifest-backup' : 'flat-backup';
  const result = emptyPackage(kind);
  const beside = besideManifest(files, place);
  const manifest = yield* plistAt(beside, `${place.folder}Manifest.plist`);
  const info = yield* plistAt(beside, `${place.folder}Info.plist`);
  result.device = deviceFacts(info, manifest);
  let keys: BackupKeys | null = null;
  if (asDict(manifest ?? undefined)?.get('IsEncrypted') === true) {
    const unlocked = yield* unlockBackup(manifest, `${place.folder}Manifest.plist`, opening);
    if ('lock' in unlocked) return { ...result, lock: unlocked.lock };
    keys = unlocked.keys;
  }
  const listed = new BackupFiles(place, beside, keys, result);
  if (place.layout === 'flat') yield* listed.fromFlat();
  else yield* listed.fromDatabase(manifest);
  listed.finish();
  return result;
}

function* plistAt({ named }: Beside, path: string): Generator<PackageStep, PlistValue | null> {
  const file = named.get(path);
  if (!file) return null;
  const source = yield* file.open();
  return tryPlist(source.read(0, Math.min(source.size, MOST_PLIST)));
}

const IS_FILE = 1;
const TYPE_MASK = 0xf000;
const TYPE_FILE = 0x8000;

class BackupFiles {
  private missing = 0;

  constructor(
    private readonly place: BackupPlace,
    private readonly beside: Beside,
    private readonly keys: BackupKeys | null,
    private readonly result: OpenedPackage
  ) {}

  *fromDatabase(manifest: PlistValue | null): Generator<PackageStep, void> {
    const path = `${this.place.folder}Manifest.db`;
    const raw = yield* this.beside.named.get(path)!.open();
    const source = this.keys ? this.openedManifest(raw, manifest) : raw;
    const wal = this.beside.named.get(`${path}-wal`);
    const files = { main: source, wal: this.keys || !wal ? undefined : yield* wal.open() };
    const database = Database.open(files);
    const table = database.table('Files');
    if (!table) throw new PackageError(path, 0, 'it has no table of files');
    const at = (name: string): number =>
      table.columns.findIndex((c) => c.name.toLowerCase() === name);
    const [id, domain, relative, flags, file] = [
      at('fileid'),
      at('domain'),
      at('relativepath'),
      at('flags'),
      at('file')
    ];
    let n = 0;
    for (const values of database.values(table)) {
      if (values[flags!] === IS_FILE || flags! < 0) {
        this.row(values[id!], values[domain!], values[relative!], values[file!]);
      }
      if (++n % 4096 === 0) yield { stage: 'unpack', done: n, total: n + 1 };
    }
    if (database.damage.length > 0) {
      const text = `${path} is damaged in ${database.damage.length} places; files listed there are missing.`;
      this.result.notes.push(warning('damaged', text, path));
    }
  }

  private openedManifest(raw: ByteSource, manifest: PlistValue | null): ByteSource {
    const blob = asDict(manifest ?? undefined)?.get('ManifestKey');
    const plain = blob instanceof Uint8Array ? this.keys!.decrypt(raw, blob, raw.size) : null;
    if (!plain) throw new PackageError(raw.name, 0, 'its key does not open with the password');
    return plain;
  }

  private row(
    id: SqlValue | undefined,
    domain: SqlValue | undefined,
    relative: SqlValue | undefined,
    blob: SqlValue | undefined
  ): void {
    if (typeof id !== 'string' || typeof relative !== 'string') return;
    const path = safePath(`${typeof domain === 'string' ? domain : 'unknown'}/${relative}`)?.path;
    const stored = this.stored(id);
    if (path === undefined || relative === '') return;
    if (!stored) this.missing++;
    else this.add(path, stored, blob);
  }

  private stored(id: string): ListedFile | undefined {
    return this.beside.stored.get(id);
  }

  *fromFlat(): Generator<PackageStep, void> {
    const path = `${this.place.folder}Manifest.mbdb`;
    const source = yield* this.beside.named.get(path)!.open();
    const { records, cutAt } = readMbdb(source.read(0, Math.min(source.size, MOST_PLIST)), path);
    if (cutAt !== null) {
      const text = `${path} is cut at offset ${cutAt}; files listed after that are missing.`;
      this.result.notes.push(warning('truncated', text, path));
    }
    for (const record of records) {
      if ((record.mode & TYPE_MASK) !== TYPE_FILE || record.path === '') continue;
      const id = toHex(sha1(new TextEncoder().encode(`${record.domain}-${record.path}`)));
      const safe = safePath(`${record.domain}/${record.path}`);
      const stored = this.stored(id);
      if (!safe) continue;
      if (!stored) this.missing++;
      else this.add(safe.path, stored, record);
    }
  }

  private add(path: string, stored: ListedFile, facts: FactsSource): void {
    const full = this.place.folder + path;
    this.result.files.push(new StoredFile(full, stored, facts, this.keys));
  }

  finish(): void {
    const { missing, result, place } = this;
    if (missing > 0) {
      const text = `${missing} files that the backup lists are not in it.`;
      result.notes.push(warning('missing-files', text, place.folder || null));
    }
  }
}

/** What the listing keeps of a file: the archived description, or the record of the older layout. */
type FactsSource = SqlValue | FileFacts | undefined;

/** A file of a backup under its real path. Its description is read when it is asked for. */
class StoredFile implements ListedFile {
  origin: string;
  readonly locked = false;
  private known: FileFacts | null = null;

  constructor(
    readonly path: string,
    private readonly stored: ListedFile,
    private readonly source: FactsSource,
    private readonly keys: BackupKeys | null
  ) {
    this.origin = stored.origin;
  }

  private get facts(): FileFacts {
    const { source } = this;
    const isRecord = typeof source === 'object' && source !== null && 'size' in source;
    return (this.known ??= isRecord ? source : fileFacts(source));
  }

  get verbatim(): boolean {
    return this.keys === null && this.stored.verbatim;
  }

  /** The listed size says where the padding of encrypted data begins; plain files tell their own. */
  get size(): number | null {
    return this.keys ? this.facts.size : this.stored.size;
  }

  get modifiedAt(): number | null {
    return this.facts.modifiedAt;
  }

  get createdAt(): number | null {
    return this.facts.createdAt;
  }

  head(): Uint8Array {
    if (!this.keys) return this.stored.head();
    const source = drain(this.open());
    return source ? source.read(0, HEAD_BYTES) : new Uint8Array(0);
  }

  *open(): Generator<PackageStep, ByteSource> {
    const stored = yield* this.stored.open();
    const source = new SliceSource(this.path, stored, 0, stored.size);
    if (!this.keys) return source;
    const { key, size } = this.facts;
    if (!key) return source;
    const plain = this.keys.decrypt(source, key, size);
    if (!plain)
      throw new PackageError(this.path, 0, 'its own key does not open with this password');
    return plain;
  }
}

/** Runs an opening to its end; stored files open at once. */
function drain(opening: Generator<PackageStep, ByteSource>): ByteSource | null {
  try {
    for (;;) {
      const step = opening.next();
      if (step.done) return step.value;
    }
  } catch (error) {
    if (error instanceof PackageError) return null;
    throw error;
  }
}

/** What the property lists beside a backup say of the device. */
function deviceFacts(info: PlistValue | null, manifest: PlistValue | null): Partial<Device> {
  const told = asDict(info ?? undefined);
  const own = asDict(manifest ?? undefined);
  const lockdown = asDict(own?.get('Lockdown'));
  const first = (...values: (string | null)[]): string | null =>
    values.find((v) => v !== null) ?? null;
  return {
    name: first(
      asText(told?.get('Device Name')),
      asText(told?.get('Display Name')),
      asText(lockdown?.get('DeviceName'))
    ),
    model: first(
      asText(told?.get('Product Name')),
      asText(told?.get('Product Type')),
      asText(lockdown?.get('ProductType'))
    ),
    system: first(asText(told?.get('Product Version')), asText(lockdown?.get('ProductVersion'))),
    serial: first(asText(told?.get('Serial Number')), asText(lockdown?.get('SerialNumber'))),
    phoneNumber: asText(told?.get('Phone Number')),
    backedUpAt: asTime(told?.get('Last Backup Date')) ?? asTime(own?.get('Date'))
  };
}

/** What a row's archived description says of a file. */
interface FileFacts {
  size: number | null;
  modifiedAt: number | null;
  createdAt: number | null;
  /** Class and wrapped key, of encrypted backups. */
  key: Uint8Array | null;
}

const NOTHING: FileFacts = { size: null, modifiedAt: null, createdAt: null, key: null };

/** Reads the keyed archive in column `file`; damage leaves the facts unknown. */
function fileFacts(blob: unknown): FileFacts {
  if (!(blob instanceof Uint8Array)) return NOTHING;
  const fields = asDict(unarchive(tryPlist(blob)));
  if (!fields) return NOTHING;
  const time = (key: string): number | null => {
    const value = fields.get(key);
    const seconds = asNumber(value);
    return seconds ? seconds * 1000 : asTime(value);
  };
  return {
    size: asNumber(fields.get('Size')),
    modifiedAt: time('LastModified'),
    createdAt: time('Birth'),
    key: asBytes(fields.get('EncryptionKey'))
  };
}

/** Class keys of an encrypted backup, and what they open. */
class BackupKeys {
  constructor(private readonly classes: ReadonlyMap<number, Uint8Array>) {}

  /** A file's own key: its class in four bytes, little endian, then the wrapped key. Null when its class is not open. */
  fileKey(blob: Uint8Array): Uint8Array | null {
    if (blob.length < 28) return null;
    const kek = this.classes.get(u32le(blob, 0));
    return kek ? unwrapKey(kek, blob.subarray(4)) : null;
  }

  /** Null when the key does not open. */
  decrypt(source: ByteSource, blob: Uint8Array, size: number | null): ByteSource | null {
    const key = this.fileKey(blob);
    return key && new CbcSource(source.name, source, key, size);
  }
}

type Unlocked = { keys: BackupKeys } | { lock: Lock };

/** Tries the passwords on the key bag, one after the other. */
function* unlockBackup(
  manifest: PlistValue | null,
  file: string,
  opening: Opening
): Generator<PackageStep, Unlocked> {
  const bytes = asBytes(asDict(manifest ?? undefined)?.get('BackupKeyBag'));
  if (!bytes) throw new PackageError(file, 0, 'it says that it is encrypted and has no key bag');
  const bag = parseKeyBag(bytes, file);
  for (const password of opening.keys) {
    const classes = yield* unlockKeyBag(bag, password, file);
    if (classes) return { keys: new BackupKeys(classes) };
  }
  const reason = opening.keys.length === 0 ? 'key-needed' : 'wrong-key';
  return { lock: { reason, wants: 'password' } };
}
