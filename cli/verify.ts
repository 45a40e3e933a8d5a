import { createHash } from 'node:crypto';
import { createReadStream, readdirSync, readFileSync, statSync, type Dirent } from 'node:fs';
import { basename, join } from 'node:path';
import { systemReason } from '../core/host';
import {
  PackageError,
  packedPackage,
  verifyLog,
  verifyPackage,
  type Package,
  type Verification
} from '../core/produce';
import { visible } from '../core/shown';
import { FileSource } from './file-source';

const [HOLDS, DIFFERS, UNREADABLE] = [0, 1, 3];

/** Checks a production or a custody log and prints what differs; gives the exit code. */
export async function verify(
  path: string,
  print: (text: string) => void = (text) => void process.stdout.write(text)
): Promise<number> {
  let result: Verification;
  try {
    result = await verifyPath(path);
  } catch (error) {
    const reason = error instanceof PackageError ? error.message : systemReason(error);
    if (reason === null) throw error;
    process.stderr.write(`error: ${visible(path)} ${reason}.\n`);
    return UNREADABLE;
  }
  print(`${JSON.stringify(result, null, 2)}\n`);
  return result.ok ? HOLDS : DIFFERS;
}

async function verifyPath(path: string): Promise<Verification> {
  const facts = statSync(path);
  if (facts.isDirectory()) return verifyPackage(folderPackage(path));
  if (!facts.isFile()) throw new PackageError('is neither a file nor a folder');
  if (path.toLowerCase().endsWith('.jsonl'))
    return verifyLog(basename(path), readFileSync(path, 'utf8'));
  return verifyPackage(zipPackage(path));
}

/** A package in a folder. */
function folderPackage(folder: string): Package {
  const paths: string[] = [];
  const others: { path: string; what: string }[] = [];
  const walk = (below: string): void => {
    for (const entry of readdirSync(join(folder, below), { withFileTypes: true })) {
      const path = below === '' ? entry.name : `${below}/${entry.name}`;
      if (entry.isDirectory()) walk(path);
      else if (entry.isFile()) paths.push(path);
      else others.push({ path, what: kindOf(entry) });
    }
  };
  walk('');
  return {
    paths: paths.sort(),
    others,
    size: (path) => Promise.resolve(statSync(join(folder, path)).size),
    sha256: (path) => hashOf(join(folder, path)),
    text: (path) => Promise.resolve(readFileSync(join(folder, path), 'utf8'))
  };
}

/** What is no file is named, never opened: a pipe would be waited for without end. */
function kindOf(entry: Dirent): string {
  if (entry.isSymbolicLink()) return 'a symbolic link';
  if (entry.isFIFO()) return 'a pipe';
  return entry.isSocket() ? 'a socket' : 'a device';
}

async function hashOf(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(file)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

/** A package in an archive. */
function zipPackage(path: string): Package {
  return packedPackage(new FileSource(path, basename(path)), () => {
    const hash = createHash('sha256');
    return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
  });
}
