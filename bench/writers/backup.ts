import initSqlJs from 'sql.js';
import creator from 'bplist-creator';
import { createCipheriv, createHash, pbkdf2Sync, randomBytes } from 'node:crypto';

const SQL = await initSqlJs();

export interface BackupFile {
  domain: string;
  path: string;
  bytes: Uint8Array;
  modifiedAt?: number;
}

export interface BackupPlan {
  files: BackupFile[];
  device: { name: string; model: string; system: string; serial: string; phone: string; at: Date };
  layout: 'database' | 'flat';
  password?: string;
  /** Rounds of both derivations. */
  rounds?: number;
  /** Bytes of keys and salts; random when left out. */
  random?: (length: number) => Buffer;
}

const CLASS = 3;

/** A manifest backup as a phone's companion program would leave it, file by file. */
export function writeBackup(plan: BackupPlan): Record<string, Uint8Array> {
  const random = plan.random ?? ((length) => randomBytes(length));
  const secrets =
    plan.password === undefined ? null : makeSecrets(plan.password, plan.rounds ?? 1000, random);
  const out: Record<string, Uint8Array> = {};
  const rows = plan.files.map((file) => {
    const id = createHash('sha1').update(`${file.domain}-${file.path}`).digest('hex');
    const key = secrets ? random(32) : null;
    const place = plan.layout === 'flat' ? id : `${id.slice(0, 2)}/${id}`;
    out[place] = key ? encrypt(key, file.bytes) : file.bytes;
    return { id, file, wrapped: key && secrets ? classed(secrets.wrap(key)) : null };
  });
  out['Info.plist'] = infoPlist(plan);
  if (plan.layout === 'flat') out['Manifest.mbdb'] = flatListing(rows);
  else {
    const listing = databaseListing(rows);
    out['Manifest.db'] = secrets ? encrypt(secrets.manifestKey, listing) : listing;
  }
  out['Manifest.plist'] = binaryPlist({
    IsEncrypted: secrets !== null,
    Version: '10.0',
    Date: plan.device.at,
    Lockdown: { DeviceName: plan.device.name, ProductVersion: plan.device.system },
    BackupKeyBag: secrets?.bag ?? Buffer.from('00'),
    ...(secrets ? { ManifestKey: classed(secrets.wrap(secrets.manifestKey)) } : {})
  });
  out['Status.plist'] = binaryPlist({ IsFullBackup: true, SnapshotState: 'finished' });
  return out;
}

function infoPlist({ device }: BackupPlan): Buffer {
  return xmlPlist({
    'Device Name': device.name,
    'Product Name': device.model,
    'Product Version': device.system,
    'Serial Number': device.serial,
    'Phone Number': device.phone,
    'Last Backup Date': device.at
  });
}

interface Row {
  id: string;
  file: BackupFile;
  wrapped: Buffer | null;
}

function databaseListing(rows: Row[]): Uint8Array {
  const db = new SQL.Database();
  db.run(
    `CREATE TABLE Files (fileID TEXT PRIMARY KEY, domain TEXT, relativePath TEXT, flags INTEGER, file BLOB);
     CREATE TABLE Properties (key TEXT PRIMARY KEY, value BLOB);`
  );
  const folders = new Set(rows.map(({ file }) => file.domain));
  for (const domain of folders) {
    const id = createHash('sha1').update(`${domain}-`).digest('hex');
    db.run('INSERT INTO Files VALUES (?, ?, ?, 2, NULL)', [id, domain, '']);
  }
  for (const row of rows) {
    const { id, file } = row;
    db.run('INSERT OR REPLACE INTO Files VALUES (?, ?, ?, 1, ?)', [
      id,
      file.domain,
      file.path,
      archived(row)
    ]);
  }
  const bytes = db.export();
  db.close();
  return bytes;
}

/** The keyed archive that describes a file. */
function archived({ file, wrapped }: Row): Buffer {
  const seconds = Math.floor((file.modifiedAt ?? 1_700_000_000_000) / 1000);
  const facts: Record<string, Plain> = {
    $class: new Uid(2),
    Size: file.bytes.length,
    Mode: 0o100644,
    LastModified: seconds,
    Birth: seconds,
    ProtectionClass: CLASS,
    RelativePath: new Uid(3)
  };
  const objects: Plain[] = [
    '$null',
    facts,
    { $classname: 'MBFile', $classes: ['MBFile', 'NSObject'] },
    file.path
  ];
  if (wrapped) {
    facts.EncryptionKey = new Uid(4);
    objects.push(
      { $class: new Uid(5), 'NS.data': wrapped },
      { $classname: 'NSMutableData', $classes: ['NSMutableData', 'NSData'] }
    );
  }
  return binaryPlist({
    $version: 100000,
    $archiver: 'NSKeyedArchiver',
    $top: { root: new Uid(1) },
    $objects: objects
  });
}

function flatListing(rows: Row[]): Buffer {
  const parts: Buffer[] = [Buffer.from('mbdb\x05\x00', 'latin1')];
  const string = (text: string | Buffer | null): void => {
    const bytes = text === null ? null : Buffer.from(text);
    const head = Buffer.alloc(2);
    head.writeUInt16BE(bytes ? bytes.length : 0xffff);
    parts.push(head, bytes ?? Buffer.alloc(0));
  };
  for (const { file, wrapped } of rows) {
    for (const text of [file.domain, file.path, null, null, wrapped]) string(text);
    const fixed = Buffer.alloc(40);
    fixed.writeUInt16BE(0o100644, 0);
    const seconds = Math.floor((file.modifiedAt ?? 1_700_000_000_000) / 1000);
    for (const at of [18, 22, 26]) fixed.writeUInt32BE(seconds, at);
    fixed.writeBigUInt64BE(BigInt(file.bytes.length), 30);
    fixed[38] = CLASS;
    parts.push(fixed);
  }
  return Buffer.concat(parts);
}

/** AES-256-CBC with a zero IV and padding to whole blocks. */
function encrypt(key: Buffer, bytes: Uint8Array): Buffer {
  const cipher = createCipheriv('aes-256-cbc', key, Buffer.alloc(16));
  return Buffer.concat([cipher.update(bytes), cipher.final()]);
}

function classed(wrapped: Buffer): Buffer {
  const head = Buffer.alloc(4);
  head.writeUInt32LE(CLASS);
  return Buffer.concat([head, wrapped]);
}

function wrapKey(kek: Buffer, key: Buffer): Buffer {
  const cipher = createCipheriv('id-aes256-wrap', kek, Buffer.alloc(8, 0xa6));
  return Buffer.concat([cipher.update(key), cipher.final()]);
}

function makeSecrets(password: string, rounds: number, random: (length: number) => Buffer) {
  const [outerSalt, salt, classKey, deviceKey] = [random(20), random(20), random(32), random(32)];
  const first = pbkdf2Sync(password, outerSalt, rounds, 32, 'sha256');
  const passKey = pbkdf2Sync(first, salt, rounds, 32, 'sha1');
  const bag = Buffer.concat([
    tag('VERS', 5),
    tag('TYPE', 1),
    tag('UUID', random(16)),
    tag('HMCK', random(40)),
    tag('WRAP', 0),
    tag('SALT', salt),
    tag('ITER', rounds),
    tag('DPWT', 0),
    tag('DPIC', rounds),
    tag('DPSL', outerSalt),
    // A class that needs the device's own key as well: it opens with no password.
    ...classTags(11, 3, wrapKey(deviceKey, random(32)), random),
    ...classTags(CLASS, 2, wrapKey(passKey, classKey), random)
  ]);
  return { bag, manifestKey: random(32), wrap: (key: Buffer) => wrapKey(classKey, key) };
}

function classTags(
  number: number,
  wrap: number,
  wrapped: Buffer,
  random: (n: number) => Buffer
): Buffer[] {
  return [
    tag('UUID', random(16)),
    tag('CLAS', number),
    tag('WRAP', wrap),
    tag('KTYP', 0),
    tag('WPKY', wrapped)
  ];
}

function tag(name: string, value: Buffer | number): Buffer {
  const bytes = typeof value === 'number' ? Buffer.alloc(4) : value;
  if (typeof value === 'number') bytes.writeUInt32BE(value);
  const length = Buffer.alloc(4);
  length.writeUInt32BE(bytes.length);
  return Buffer.concat([Buffer.from(name), length, bytes]);
}

/** Values that a property list can hold; numbers that are whole become integers. */
export type Plain =
  string | number | boolean | Date | Buffer | Uid | Plain[] | { [key: string]: Plain };

/** A reference inside a keyed archive. */
export class Uid {
  constructor(readonly UID: number) {}
}

/** A binary property list, written by an independent package. */
export function binaryPlist(value: Plain): Buffer {
  // The package makes its buffers by an old call, which is nothing to tell users of.
  const { noDeprecation } = process;
  process.noDeprecation = true;
  try {
    return creator(value as object);
  } finally {
    process.noDeprecation = noDeprecation;
  }
}

/** An XML property list. */
export function xmlPlist(value: Plain): Buffer {
  const head = '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n';
  return Buffer.from(`${head}${xmlValue(value)}\n</plist>\n`);
}

function xmlValue(value: Plain): string {
  if (typeof value === 'string') return `<string>${escaped(value)}</string>`;
  if (typeof value === 'boolean') return value ? '<true/>' : '<false/>';
  if (typeof value === 'number') {
    return Number.isInteger(value) ? `<integer>${value}</integer>` : `<real>${value}</real>`;
  }
  if (value instanceof Date) return `<date>${value.toISOString().slice(0, 19)}Z</date>`;
  if (Buffer.isBuffer(value)) return `<data>\n${value.toString('base64')}\n</data>`;
  if (Array.isArray(value)) return `<array>${value.map(xmlValue).join('\n')}</array>`;
  const pairs = Object.entries(value).map(
    ([key, inner]) => `<key>${escaped(key)}</key>${xmlValue(inner as Plain)}`
  );
  return `<dict>${pairs.join('\n')}</dict>`;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
}
