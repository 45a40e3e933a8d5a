import { u16le, u32le, type ByteSource } from '../../host';
import { PackageError } from '../types';

/** Signature and size of a local header (APPNOTE.TXT 6.3, section 4.3.7). */
export const LOCAL = 0x04034b50;
export const LOCAL_SIZE = 30;

/** How an entry is encrypted: the traditional way (section 6.1), or AES in counter mode (extra field 0x9901). */
export type Encryption = { kind: 'traditional' } | { kind: 'aes'; keyBytes: 16 | 24 | 32 };

export interface Entry {
  name: string;
  /** How it is packed, under the encryption where there is one. */
  method: number;
  /** Null where it is plain; `unknown` where no key would help here. */
  encryption: Encryption | 'unknown' | null;
  packed: number;
  size: number;
  /** CRC-32 of the unpacked bytes; null where it is not told. */
  crc: number | null;
  /** Offset of its local header. */
  header: number;
  modifiedAt: number | null;
  /** Byte that the twelfth of a traditionally encrypted entry must be, with the key that fits. */
  check: number;
  /** Of the entry, in the directory. */
  comment: string;
  /** Attributes of the system that packed it; the upper half is the mode of a file where that system has modes. */
  attributes: number;
}

/** Where an entry's data begin: name and extra field of the local header have lengths of their own. */
export function dataStart(zip: ByteSource, entry: Entry, path: string): number {
  const head = zip.read(entry.header, LOCAL_SIZE);
  if (head.length < LOCAL_SIZE || u32le(head, 0) !== LOCAL) {
    throw new PackageError(path, entry.header, 'there is no entry header where the listing says');
  }
  return entry.header + LOCAL_SIZE + u16le(head, 26) + u16le(head, 28);
}
