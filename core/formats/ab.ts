import { fromHex, SliceSource, type ByteSource } from '../host';
import { CbcSource, decryptCbc, paddingOf } from './keys/aes';
import { deriveKey } from './keys/derive';
import { unpackInto } from './inflate';
import { openTar } from './tar';
import {
  emptyPackage,
  PackageError,
  warning,
  type OpenedPackage,
  type Opening,
  type PackageStep,
  type PackageFormat
} from './types';

/** The first line of the format. */
const MAGIC = 'ANDROID BACKUP\n';
const latin = new TextDecoder('latin1');
const utf8 = new TextEncoder();

function isAb(head: Uint8Array): boolean {
  return latin.decode(head.subarray(0, MAGIC.length)) === MAGIC;
}

interface AbHeader {
  version: number;
  compressed: boolean;
  encryption: string;
  /** Header lines after the fourth, of encrypted archives. */
  secrets: string[];
  dataStart: number;
}

const PLAIN_LINES = 4;
const SECRET_LINES = 5;
const HEAD = 16_384;

/** @throws PackageError */
function readHeader(archive: ByteSource): AbHeader {
  const text = latin.decode(archive.read(0, HEAD));
  const lines: string[] = [];
  let at = 0;
  let wanted = PLAIN_LINES;
  while (lines.length < wanted) {
    const end = text.indexOf('\n', at);
    if (end < 0) throw new PackageError(archive.name, at, 'the header is cut off');
    lines.push(text.slice(at, end));
    at = end + 1;
    if (lines.length === PLAIN_LINES && lines[3] !== 'none') wanted += SECRET_LINES;
  }
  return {
    version: Number(lines[1]),
    compressed: lines[2] === '1',
    encryption: lines[3]!,
    secrets: lines.slice(PLAIN_LINES),
    dataStart: at
  };
}

/** Opens an `.ab` archive: text header, then (encrypted,) packed tar. */
function* openAb(
  archive: ByteSource,
  prefix: string,
  opening: Opening
): Generator<PackageStep, OpenedPackage> {
  const header = readHeader(archive);
  const result = emptyPackage('ab-archive');
  let data: ByteSource = new SliceSource(archive.name, archive, header.dataStart, archive.size);
  if (header.encryption !== 'none') {
    const plain = yield* decrypted(archive.name, header, data, opening);
    if (!plain) {
      const reason = opening.keys.length === 0 ? 'key-needed' : 'wrong-key';
      return { ...result, lock: { reason, wants: 'password' } };
    }
    data = plain;
  }
  if (header.compressed) {
    const into = opening.scratch();
    const run = { source: data, start: 0, length: data.size, packing: 'zlib' as const };
    const { cut } = yield* unpackInto(run, into);
    if (cut !== null) {
      const text = `${archive.name}: ${cut}; ${into.size} bytes were unpacked before that.`;
      result.notes.push(warning('damaged', text, archive.name));
    }
    data = into.finish(archive.name);
  }
  const tar = yield* openTar(data, prefix);
  return { ...tar, kind: 'ab-archive', notes: [...result.notes, ...tar.notes] };
}

const MOST_ROUNDS = 50_000_000;

function* decrypted(
  file: string,
  header: AbHeader,
  data: ByteSource,
  opening: Opening
): Generator<PackageStep, ByteSource | null> {
  if (header.encryption !== 'AES-256') {
    throw new PackageError(
      file,
      0,
      `its encryption "${header.encryption.slice(0, 40)}" is not known`
    );
  }
  const [userSalt, checkSalt, , userIv, blob] = header.secrets.map((line) => fromHex(line.trim()));
  const rounds = Number(header.secrets[2]);
  if (!userSalt || !checkSalt || userIv?.length !== 16 || !blob || blob.length % 16 !== 0) {
    throw new PackageError(file, 0, 'the header of its encryption is damaged');
  }
  if (!(rounds >= 1 && rounds <= MOST_ROUNDS)) {
    throw new PackageError(file, 0, `it requires ${rounds} rounds of key derivation`);
  }
  for (const password of opening.keys) {
    for (const bytes of passwordForms(password)) {
      const user = yield* derive(file, bytes, userSalt, rounds);
      const master = yield* masterKey(file, decryptCbc(user, userIv, blob), checkSalt, rounds);
      if (master) return new CbcSource(file, data, master.key, null, master.iv);
    }
  }
  return null;
}

/** Writers differ in how a password outside ASCII becomes bytes: as UTF-8, or the low byte of each character. */
function passwordForms(password: string): Uint8Array[] {
  const forms = [utf8.encode(password)];
  if (!/^[\x00-\x7f]*$/.test(password)) {
    forms.push(Uint8Array.from(password, (char) => char.charCodeAt(0) & 0xff));
  }
  return forms;
}

function derive(
  file: string,
  password: Uint8Array,
  salt: Uint8Array,
  rounds: number
): Generator<PackageStep, Uint8Array> {
  return deriveKey(file, { hash: 'sha1', password, salt, rounds, length: 32 });
}

/** The master key with its IV out of the decrypted blob (each with a length byte before it); null when the checksum is not that of the key. */
function* masterKey(
  file: string,
  blob: Uint8Array,
  salt: Uint8Array,
  rounds: number
): Generator<PackageStep, { key: Uint8Array; iv: Uint8Array } | null> {
  const padding = paddingOf(blob);
  if (padding === null) return null;
  const parts: Uint8Array[] = [];
  for (let at = 0; at < blob.length - padding && parts.length < 3;) {
    const length = blob[at]!;
    parts.push(blob.subarray(at + 1, at + 1 + length));
    at += 1 + length;
  }
  const [iv, key, check] = parts;
  if (iv?.length !== 16 || key?.length !== 32 || !check) return null;
  for (const form of [signExtended(key), key]) {
    const own = yield* derive(file, form, salt, rounds);
    if (own.length === check.length && own.every((byte, i) => byte === check[i]))
      return { key, iv };
  }
  return null;
}

/** The writer takes the key's bytes for signed characters: those over 0x7F become U+FF80 to U+FFFF, in UTF-8. */
function signExtended(key: Uint8Array): Uint8Array {
  return utf8.encode(
    Array.from(key, (byte) => String.fromCharCode(byte < 128 ? byte : 0xff00 | byte)).join('')
  );
}

export const AB: PackageFormat = {
  kind: 'ab-archive',
  title: '.ab archive',
  begins: isAb,
  open: openAb
};
