import { asBytes, asDict, asNumber, asTime, tryPlist, unarchive } from '../../plist';

/** What a row's archived description says of a file. */
export interface FileFacts {
  size: number | null;
  modifiedAt: number | null;
  createdAt: number | null;
  /** Class and wrapped key, of encrypted backups. */
  key: Uint8Array | null;
}

const NOTHING: FileFacts = { size: null, modifiedAt: null, createdAt: null, key: null };

/** Reads the keyed archive in column `file`; damage leaves the facts unknown. */
export function fileFacts(blob: unknown): FileFacts {
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
