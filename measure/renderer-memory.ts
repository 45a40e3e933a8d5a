import { readdirSync, readFileSync } from 'node:fs';

/** Memory of the browser's page and its workers: private and shared parts of the processes, in MiB. */
export function rendererMemory(profile: string): number {
  let kilobytes = 0;
  for (const pid of readdirSync('/proc')) {
    if (!/^\d+$/.test(pid)) continue;
    const command = read(`/proc/${pid}/cmdline`);
    if (!command.includes('--type=renderer') || !command.includes(profile)) continue;
    kilobytes += Number(/^Pss:\s+(\d+)/m.exec(read(`/proc/${pid}/smaps_rollup`))?.[1] ?? 0);
  }
  return kilobytes / 1024;
}

/** Empty where the process has ended in the meantime. */
function read(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return '';
  }
}

/** Watches the memory while something runs, and gives the most that it was. */
export async function peakWhile<T>(
  profile: string,
  work: () => Promise<T>
): Promise<{ value: T; peak: number }> {
  let peak = 0;
  const timer = setInterval(() => (peak = Math.max(peak, rendererMemory(profile))), 500);
  try {
    const value = await work();
    return { value, peak };
  } finally {
    clearInterval(timer);
  }
}
