import { u32le, type ByteSource } from '../../bytes';
import { CbcSource, unwrapKey } from '../keys/aes';
import { parseKeyBag, unlockKeyBag } from '../keys/keybag';
import { asBytes, asDict, type PlistValue } from '../../plist';
import { PackageError, type Lock, type Opening, type PackageStep } from '../types';

/** Class keys of an encrypted backup, and what they open. */
export class BackupKeys {
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

export type Unlocked = { keys: BackupKeys } | { lock: Lock };

/** Tries the passwords on the key bag, one after the other. */
export function* unlockBackup(
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
