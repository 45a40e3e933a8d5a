import { existsSync, readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { BenchRefusal, Handset, type BenchDevice } from '../bench';
import { BENCH } from '../demo/devices';
import { writeReason } from '../core/host';
import { COPY_DEPTHS, CopyError, takeCopy, type CopyDepth } from '../core/acquire';
import { visible } from '../core/shown';
import { CopyFolder, earlierLog } from './copy-folder';
import { lock } from './lock';
import { UsageError } from './usage-error';

const [DONE, BAD_USAGE, UNREADABLE, KEY_NEEDED] = [0, 2, 3, 4];

export interface CopyOptions {
  depth: string;
  out: string;
  keyFile?: string;
  fault?: string;
  quiet?: boolean;
}

/** Runs a part of the bench; what goes wrong becomes one sentence and an exit code. */
async function guarded(work: () => Promise<void>): Promise<number> {
  try {
    await work();
    return DONE;
  } catch (error) {
    const code = exitCode(error);
    if (code === null) throw error;
    const reason = writeReason(error);
    const isBroken = error instanceof CopyError && error.fault !== 'not-ready';
    const rest = isBroken ? ' What was verified is kept; the same command resumes the copy.' : '';
    const message = error instanceof Error ? `${error.message}${rest}` : String(error);
    process.stderr.write(
      `error: ${visible(reason === null ? message : `The place of the copy ${reason}.`)}\n`
    );
    return code;
  }
}

function exitCode(error: unknown): number | null {
  if (error instanceof UsageError) return BAD_USAGE;
  if (error instanceof BenchRefusal)
    return error.reason === 'not-possible' ? BAD_USAGE : KEY_NEEDED;
  if (error instanceof CopyError || writeReason(error) !== null) return UNREADABLE;
  return null;
}

function deviceOf(id: string): BenchDevice {
  const device = BENCH.find((one) => one.id === id);
  if (device) return device;
  const known = BENCH.map((one) => one.id).join(', ');
  throw new UsageError(`There is no ${id} on the bench; there are ${known}.`);
}

/** Prints what is on the bench as JSON. */
export function benchList(print: (text: string) => void): Promise<number> {
  return guarded(async () => {
    const devices = [];
    for (const device of BENCH) {
      const { id, kind, name, detail, status, depths, needs, faults, key } = await device.view();
      const has = depths.filter(({ why }) => why === null).map(({ depth }) => depth);
      devices.push({
        id,
        kind,
        name,
        detail,
        status,
        depths: has,
        without: Object.fromEntries(
          depths.flatMap(({ depth, why }) => (why === null ? [] : [[depth, why]]))
        ),
        needs: needs['file-system'].map((need) => need.title),
        faults,
        key
      });
    }
    print(`${JSON.stringify(devices, null, 2)}\n`);
  });
}

/** Takes a copy of a device into a folder. */
export function benchCopy(id: string, options: CopyOptions): Promise<number> {
  return guarded(async () => {
    const device = deviceOf(id);
    const depth = depthOf(options.depth);
    const folder = options.out.replace(/\/+$/, '');
    if (folder === '' || existsSync(folder))
      throw new UsageError(`${options.out} is there already; nothing is written over it.`);
    const { faults, depths } = await device.view();
    const why = depths.find((one) => one.depth === depth)?.why;
    if (why) throw new UsageError(`There is no ${depth} copy. ${why}`);
    const fault = options.fault ?? '';
    if (fault !== '' && !faults.some((known) => known === fault))
      throw new UsageError(`${id} has no fault ${fault}; it has ${faults.join(', ')}.`);
    await device.prepare(depth, keyOf(options.keyFile));
    // A fault happens once: the same command resumes the copy again.
    const hasHappened = earlierLog(folder).some(({ what }) => what === 'broke off');
    await device.act({ act: 'arm', value: hasHappened ? '' : fault });
    await copyInto(device, depth, folder, options.quiet === true);
    if (device instanceof Handset) await device.act({ act: 'take-off' });
  });
}

function depthOf(told: string): CopyDepth {
  const depth = COPY_DEPTHS.find((one) => one === told);
  if (!depth) throw new UsageError(`Unknown depth “${told}”; there are ${COPY_DEPTHS.join(', ')}.`);
  return depth;
}

/** What the key file holds, without the end of its last line. */
function keyOf(path: string | undefined): string | null {
  if (path === undefined) return null;
  if (!existsSync(path)) throw new UsageError(`There is no key file ${path}.`);
  return readFileSync(path, 'utf8')
    .replace(/^\ufeff/, '')
    .replace(/\s+$/, '');
}

async function copyInto(
  device: BenchDevice,
  depth: CopyDepth,
  folder: string,
  isQuiet: boolean
): Promise<void> {
  const say = (text: string): void => void (isQuiet || process.stderr.write(`${text}\n`));
  const wire = device.wire({ depth, kinds: null }, false);
  const host = { now: () => Date.now(), sleep: (ms: number) => sleep(ms) };
  const release = lock(`${folder}.part.lock`, `${folder} is being copied to`);
  try {
    for await (const event of takeCopy(wire, new CopyFolder(folder), host)) {
      if (event.type === 'taken-up' && event.verified > 0)
        say(`${event.verified} bytes that were there already are verified.`);
      if (event.type === 'waiting') say(`The vault asks to wait ${event.milliseconds} ms.`);
      if (event.type === 'done')
        say(`${folder}: ${event.files.length} files, ${event.total} bytes, all verified.`);
    }
  } finally {
    release();
  }
}

/** Merges a rebuilt store into a handset, or tells what that would do. */
export function benchPut(
  id: string,
  options: { from: string; dryRun?: boolean },
  print: (text: string) => void
): Promise<number> {
  return guarded(async () => {
    const device = deviceOf(id);
    if (!(device instanceof Handset))
      throw new UsageError(`Messages are put back into handsets; ${id} is none.`);
    if (!existsSync(options.from)) throw new CopyError('not-ready', `There is no ${options.from}.`);
    const report = await device.put(readFileSync(options.from), options.dryRun === true);
    print(
      `${JSON.stringify({ device: id, dryRun: options.dryRun === true, ...report }, null, 2)}\n`
    );
  });
}

/** Brings back the first state of one device, or of all. */
export function benchReset(id: string | undefined): Promise<number> {
  return guarded(() => {
    for (const device of id === undefined ? BENCH : [deviceOf(id)]) device.reset();
    return Promise.resolve();
  });
}
