import { createHash } from 'node:crypto';
import { createReadStream, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { Unzip, UnzipInflate, UnzipPassThrough } from 'fflate';
import { systemReason } from '../core/bytes';
import { verifyLog, verifyPackage, type Package, type Verification } from '../core/produce';
import { visible } from '../core/shown';

const [HOLDS, DIFFERS, UNREADABLE] = [0, 1, 3];

/** Checks a production or a custody log and prints what differs; gives the exit code. */
export async function verify(path: string): Promise<number> {
  let result: Verification;
  try {
    result = await verifyPath(path);
  } catch (error) {
    const reason = error instanceof NoPackageError ? error.message : systemReason(error);
    if (reason === null) throw error;
    process.stderr.write(`error: ${visible(path)} ${reason}.\n`);
    return UNREADABLE;
  }
  process.stdout.write(`${JSON.stringify(result, null, 2)}\n`);
  return result.ok ? HOLDS : DIFFERS;
}

class NoPackageError extends Error {}

async function verifyPath(path: string): Promise<Verification> {
  if (statSync(path).isDirectory()) return verifyPackage(folderPackage(path));
  if (path.toLowerCase().endsWith('.jsonl'))
    return verifyLog(basename(path), readFileSync(path, 'utf8'));
  return verifyPackage(await zipPackage(path));
}

/** A package in a folder. */
function folderPackage(folder: string): Package {
  const paths: string[] = [];
  const walk = (below: string): void => {
    for (const entry of readdirSync(join(folder, below), { withFileTypes: true })) {
      const path = below === '' ? entry.name : `${below}/${entry.name}`;
      if (entry.isDirectory()) walk(path);
      else paths.push(path);
    }
  };
  walk('');
  return {
    paths: paths.sort(),
    sha256: (path) => hashOf(join(folder, path)),
    text: (path) => Promise.resolve(readFileSync(join(folder, path), 'utf8'))
  };
}

async function hashOf(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(file)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

/** Texts that are read whole. */
const READ =
  /(^|\/)(manifest-sha256|tagmanifest-sha256|bagit|bag-info)\.txt$|\/(custody|records)\.jsonl$|\/production\.json$/;

/** A package in an archive, gone through once: files are hashed as they come. */
async function zipPackage(path: string): Promise<Package> {
  const sums = new Map<string, string>();
  const texts = new Map<string, string>();
  const unzip = new Unzip((file) => {
    const hash = createHash('sha256');
    const kept: Uint8Array[] | null = READ.test(file.name) ? [] : null;
    file.ondata = (error, chunk, isLast) => {
      if (error) throw new NoPackageError(`is damaged: ${file.name} cannot be unpacked`);
      hash.update(chunk);
      kept?.push(Uint8Array.from(chunk));
      if (!isLast) return;
      if (file.name.endsWith('/')) return;
      sums.set(file.name, hash.digest('hex'));
      if (kept) texts.set(file.name, Buffer.concat(kept).toString('utf8'));
    };
    file.start();
  });
  unzip.register(UnzipInflate);
  unzip.register(UnzipPassThrough);
  try {
    for await (const chunk of createReadStream(path)) unzip.push(new Uint8Array(chunk as Buffer));
    unzip.push(new Uint8Array(0), true);
  } catch (error) {
    if (error instanceof NoPackageError || systemReason(error) !== null) throw error;
    throw new NoPackageError('is no archive, or is damaged');
  }
  if (sums.size === 0) throw new NoPackageError('is no archive');
  return withinFolder(sums, texts);
}

/** Archives hold the package in a folder of its own, or as it is. */
function withinFolder(
  sums: ReadonlyMap<string, string>,
  texts: ReadonlyMap<string, string>
): Package {
  const mark = [...sums.keys()].find((name) => /(^|\/)bagit\.txt$/.test(name));
  const prefix = mark?.slice(0, -'bagit.txt'.length) ?? '';
  const paths = [...sums.keys()].map((name) =>
    name.startsWith(prefix) ? name.slice(prefix.length) : name
  );
  const whole = (path: string): string => (sums.has(prefix + path) ? prefix + path : path);
  return {
    paths: paths.sort(),
    sha256: (path) => Promise.resolve(sums.get(whole(path)) ?? ''),
    text: (path) => Promise.resolve(texts.get(whole(path)) ?? '')
  };
}
