import { existsSync, realpathSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve, sep } from 'node:path';
import { filesWith } from './inputs';
import { UsageError } from './usage-error';

/**
 * Refuses to write where evidence lies: an output may be no input, none of
 * the files that belong to one, and not inside a folder that is one.
 * @throws UsageError
 */
export function refusePlaces(
  inputs: readonly string[],
  out: string,
  attachments: string | null
): void {
  refuseKind(out);
  for (const place of [out, attachments]) {
    if (place === null) continue;
    const input = inputs.find((path) => isWithin(place, path));
    if (input !== undefined)
      throw new UsageError(
        `${place} is ${input}, belongs to it or lies inside it: nothing is written where evidence lies.`
      );
  }
}

function refuseKind(out: string): void {
  if (!existsSync(out)) return;
  const facts = statSync(out);
  if (facts.isDirectory()) throw new UsageError(`${out} is a folder; --out names a file.`);
  if (!facts.isFile()) throw new UsageError(`${out} is a device or a pipe; --out names a file.`);
}

function isWithin(place: string, input: string): boolean {
  if (!existsSync(input)) return false;
  const target = realPlace(place);
  // Companions that are not there yet would be taken for one at the next examination.
  const own = [
    input,
    ...filesWith(input),
    ...['-wal', '-journal', '-shm'].map((end) => input + end)
  ];
  return own.some((path) => {
    const real = realPlace(path);
    return target === real || target.startsWith(real + sep) || isSameFile(place, path);
  });
}

/** A path with its links followed, as far as it is there. */
function realPlace(path: string): string {
  const whole = resolve(path);
  if (existsSync(whole)) return realpathSync(whole);
  const above = dirname(whole);
  return above === whole ? whole : join(realPlace(above), basename(whole));
}

/** Two names of one file. */
function isSameFile(a: string, b: string): boolean {
  if (!existsSync(a) || !existsSync(b)) return false;
  const [first, second] = [statSync(a), statSync(b)];
  return first.dev === second.dev && first.ino === second.ino;
}
