import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { BENCH } from './devices';
import { takeCopy, type CopyDepth, type CopyLogEntry, type CopyPlace } from '../core/acquire';

/** A source of the demo that was copied on the bench. */
export interface DemoCopy {
  name: string;
  folder: string;
  files: Map<string, Uint8Array>;
  copied: { device: string; depth: CopyDepth; at: number; log: CopyLogEntry[] };
}

/** When the technician took them. */
const TAKEN = Date.UTC(2026, 10, 3, 9, 12);

const ORDERS = [
  { name: 'Tablet from the office', folder: 'tablet', device: 'pocket-5', key: '118002' },
  { name: 'Card of the old handset', folder: 'card', device: 'card', key: '4821' }
] as const;

/** Takes the copies that the demo begins with, of devices as they are found. */
export async function takeDemoCopies(): Promise<DemoCopy[]> {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-demo-'));
  const before = process.env.XDG_STATE_HOME;
  process.env.XDG_STATE_HOME = folder;
  try {
    const copies: DemoCopy[] = [];
    for (const order of ORDERS) copies.push(await taken(order));
    return copies;
  } finally {
    if (before === undefined) delete process.env.XDG_STATE_HOME;
    else process.env.XDG_STATE_HOME = before;
    rmSync(folder, { recursive: true });
  }
}

async function taken({ name, folder, device, key }: (typeof ORDERS)[number]): Promise<DemoCopy> {
  const depth = 'file-system';
  const found = BENCH.find(({ id }) => id === device)!;
  await found.prepare(depth, key);
  const place = new MemoryPlace();
  let now = TAKEN;
  const host = { now: () => (now += 40), sleep: () => Promise.resolve() };
  const wire = found.wire({ depth, kinds: null }, false);
  for await (const event of takeCopy(wire, place, host)) if (event.type === 'done') break;
  return { name, folder, files: place.files, copied: { device, depth, at: now, log: place.lines } };
}

/** A copy that is only kept until it is written. */
class MemoryPlace implements CopyPlace {
  readonly files = new Map<string, Uint8Array>();
  readonly lines: CopyLogEntry[] = [];

  log(): Promise<CopyLogEntry[]> {
    return Promise.resolve([...this.lines]);
  }
  addToLog(entry: CopyLogEntry): Promise<void> {
    this.lines.push(entry);
    return Promise.resolve();
  }
  size(path: string): Promise<number> {
    return Promise.resolve(this.files.get(path)?.length ?? 0);
  }
  read(path: string, offset: number, length: number): Promise<Uint8Array> {
    return Promise.resolve(this.files.get(path)!.subarray(offset, offset + length));
  }
  append(path: string, bytes: Uint8Array): Promise<void> {
    this.files.set(path, Buffer.concat([this.files.get(path) ?? new Uint8Array(0), bytes]));
    return Promise.resolve();
  }
  cut(path: string, size: number): Promise<void> {
    const known = this.files.get(path);
    if (known) this.files.set(path, known.subarray(0, size));
    return Promise.resolve();
  }
  finish(): Promise<void> {
    return Promise.resolve();
  }
}
