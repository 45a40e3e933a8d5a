import { createHash } from 'node:crypto';
import { createReadStream, openAsBlob, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { systemReason } from '../core/bytes';
import {
  PackageError,
  packedPackage,
  verifyLog,
  verifyPackage,
  type Package,
  type Verification
} from '../core/produce';
import { visible } from '../core/shown';

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

/** A package in an archive. */
async function zipPackage(path: string): Promise<Package> {
  return packedPackage(await openAsBlob(path), () => {
    const hash = createHash('sha256');
    return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
  });
}
