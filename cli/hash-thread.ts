import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { Worker, parentPort, workerData } from 'node:worker_threads';

interface HashJob {
  hashOf: string;
}

/** SHA-256 of a file, worked out in a thread of its own. @throws when the file cannot be read. */
export function hashBeside(path: string): Promise<string> {
  const job: HashJob = { hashOf: path };
  const worker = new Worker(new URL(import.meta.url), { workerData: job });
  return new Promise((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
    worker.once('exit', (code) => {
      if (code !== 0) reject(new Error(`hashing ${path} ended with ${code}`));
    });
  });
}

/** Whether this thread was started to hash a file; then it does so. */
export function isHashThread(): boolean {
  const job = workerData as HashJob | null;
  if (!job?.hashOf || !parentPort) return false;
  const port = parentPort;
  const hash = createHash('sha256');
  createReadStream(job.hashOf, { highWaterMark: 1 << 20 })
    .on('data', (chunk) => hash.update(chunk))
    .on('end', () => port.postMessage(hash.digest('hex')))
    .on('error', (error) => {
      throw error;
    });
  return true;
}
