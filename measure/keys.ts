// How long working out a key takes: by the host's own library, as the program does it, and in
// JavaScript, in the same run. Arguments: rounds (default two million).
import { randomBytes } from 'node:crypto';
import { pbkdf2 } from '@noble/hashes/pbkdf2.js';
import { sha1 } from '@noble/hashes/legacy.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { deriveKey, type HashName } from '../core/formats/keys/derive';

const rounds = Number(process.argv[2] ?? 2_000_000);

async function byHost(hash: HashName, password: Uint8Array, salt: Uint8Array): Promise<Uint8Array> {
  const work = deriveKey('measured', { hash, password, salt, rounds, length: 32 });
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    await step.value.until;
  }
}

/** Milliseconds in which the thread that asks could not answer anything else. */
async function longestRest(work: Promise<unknown>): Promise<number> {
  let [longest, last, isOver] = [0, performance.now(), false];
  void work.finally(() => (isOver = true));
  while (!isOver) {
    await new Promise((resolve) => setTimeout(resolve, 5));
    longest = Math.max(longest, performance.now() - last);
    last = performance.now();
  }
  return longest;
}

console.log(`PBKDF2, ${rounds.toLocaleString('en')} rounds, 32 bytes`);
for (const hash of ['sha1', 'sha256'] as const) {
  const [password, salt] = [randomBytes(12), randomBytes(20)];
  const begun = performance.now();
  const work = byHost(hash, password, salt);
  const rest = await longestRest(work);
  const host = performance.now() - begun;
  const again = performance.now();
  const inScript = pbkdf2(hash === 'sha1' ? sha1 : sha256, password, salt, {
    c: rounds,
    dkLen: 32
  });
  const script = performance.now() - again;
  if (!Buffer.from(await work).equals(Buffer.from(inScript))) throw new Error('They differ.');
  console.log(
    `${hash}: host ${(host / 1000).toFixed(2)} s, JavaScript ${(script / 1000).toFixed(2)} s, ratio ${(script / host).toFixed(1)}; the thread rested ${rest.toFixed(0)} ms at most`
  );
}
