import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { makeLargeStore } from './make-large';

/** How long a whole examination takes, beside the plainest tool that reads every byte once. */
const SIZES = (process.argv[2] ?? '10,32,100,320').split(',').map(Number);
/** How messages are kept: telephony, or one of the other shapes that make-large.ts knows. */
const SHAPE = process.argv[3] ?? 'telephony';

interface Timed {
  seconds: number;
  megabytes: number;
}

function timed(command: string, args: string[]): Timed {
  const run = spawnSync('/usr/bin/time', ['-f', '%e %M', command, ...args], { encoding: 'utf8' });
  const [seconds, kilobytes] = (run.stderr.trim().split('\n').pop() ?? '').split(' ').map(Number);
  if (run.status !== 0) throw new Error(`${command} ended with ${run.status}: ${run.stderr}`);
  return { seconds: seconds!, megabytes: Math.round(kilobytes! / 1024) };
}

async function main(): Promise<void> {
  console.log(`${cpus().length} cores\n`);
  console.log(
    '| store | messages | sha256sum | examine | ratio | seconds a 100 MiB | peak memory |'
  );
  console.log(
    '| ----: | -------: | --------: | ------: | ----: | ----------------: | ----------: |'
  );
  for (const size of SIZES) console.log(await row(size));
}

async function row(size: number): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'speed-'));
  try {
    const store = join(folder, 'messages.db');
    const count = await makeLargeStore(store, size, SHAPE);
    timed('sha256sum', [store]);
    const plain = timed('sha256sum', [store]);
    const args = ['run', '--silent', 'examine', '--', store, '--quiet', '--out'];
    const whole = timed('npm', [...args, join(folder, 'case.json')]);
    const mebibytes = statSync(store).size / 2 ** 20;
    const cells = [
      `${Math.round(mebibytes)} MiB`,
      count.toLocaleString('en'),
      `${plain.seconds.toFixed(2)} s`,
      `${whole.seconds.toFixed(2)} s`,
      (whole.seconds / plain.seconds).toFixed(1),
      ((whole.seconds / mebibytes) * 100).toFixed(1),
      `${whole.megabytes} MiB`
    ];
    return `| ${cells.join(' | ')} |`;
  } finally {
    rmSync(folder, { recursive: true });
  }
}

await main();
