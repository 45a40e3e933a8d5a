import { randomBytes } from 'node:crypto';
import { rmSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';

const made = new Set<string>();

/**
 * A name beside a file under which it is written until it is whole. No other
 * run takes the same, and what is left of it when this process ends, by
 * itself or by a signal, is removed.
 */
export function partialBeside(path: string): string {
  if (made.size === 0) cleanUpAtEnd();
  const partial = join(
    dirname(path),
    `.${basename(path).slice(0, 100)}.${randomBytes(6).toString('hex')}.partial`
  );
  made.add(partial);
  return partial;
}

const SIGNALS = { SIGINT: 130, SIGTERM: 143, SIGHUP: 129 } as const;

function cleanUpAtEnd(): void {
  process.on('exit', () => {
    for (const partial of made) rmSync(partial, { force: true, recursive: true });
  });
  for (const [signal, code] of Object.entries(SIGNALS))
    process.once(signal as NodeJS.Signals, () => process.exit(code));
}
