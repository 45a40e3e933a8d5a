import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { toHex } from '../host';
import {
  type CopiedFile,
  CopyError,
  type CopyEvent,
  type CopyFile,
  type CopyListing,
  type CopyLogEntry,
  type CopyPart,
  type CopyPlace,
  type CopyWire,
  WaitError
} from './types';

/** Bytes that are read, verified and kept at a time. */
export const PART = 32 * 1024;

/** Facts of the copy; the same for two copies of one state. */
const FACTS_FILE = 'copy.json';
export const SUMS_FILE = 'SHA256SUMS';

/** What a copy needs from outside. */
export interface CopyHost {
  /** Resolves when the copy may go on; held while it is paused. */
  gate?: { readonly paused: boolean; pass(): Promise<void> };
  signal?: AbortSignal;
  now(): number;
  sleep(milliseconds: number): Promise<void>;
}

/**
 * Copies what a device hands out, part by part. Every part is compared with
 * the checksum of the device's side before it is kept, and read again before
 * a copy that broke off is taken up. The place gives the copy its name only
 * when all of it is there.
 * @throws CopyError when it breaks off
 */
export async function* takeCopy(
  wire: CopyWire,
  place: CopyPlace,
  host: CopyHost
): AsyncGenerator<CopyEvent> {
  const copy = new Copy(wire, place, host);
  try {
    yield* copy.run();
  } catch (error) {
    if (error instanceof CopyError) {
      const { fault, at } = error;
      await copy.say(fault === 'not-ready' ? null : 'broke off', { fault, ...at });
    }
    throw error;
  }
}

class Copy {
  private done = 0;
  private total = 0;
  private readonly pace: Pace;

  constructor(
    private readonly wire: CopyWire,
    private readonly place: CopyPlace,
    private readonly host: CopyHost
  ) {
    this.pace = new Pace(() => host.now());
  }

  async *run(): AsyncGenerator<CopyEvent> {
    const listing = await this.wire.list();
    this.total = listing.files.reduce((sum, { size }) => sum + size, 0);
    const earlier = await this.begin(listing);
    const files: CopiedFile[] = [];
    if (earlier.size > 0) yield { type: 'taken-up', verified: 0, total: this.total };
    for (const file of listing.files) {
      const hash = sha256.create();
      const there = await this.verified(file, earlier.get(file.path) ?? [], hash);
      this.done += there;
      if (there > 0) {
        yield { type: 'taken-up', verified: this.done, total: this.total };
        // What was there already was not read now.
        this.pace.begin(this.done);
      }
      yield* this.rest(file, there, hash);
      const sum = toHex(hash.digest());
      await this.say('file', { ...file, sha256: sum });
      files.push({ ...file, sha256: sum });
    }
    yield* this.finish(listing, files);
  }

  /** Checksums of the parts that an earlier attempt kept, by file. */
  private async begin(listing: CopyListing): Promise<Map<string, string[]>> {
    const log = await this.place.log();
    const { device, depth, kinds, state } = listing;
    const facts = { device, depth, kinds, state };
    const parts = new Map<string, string[]>();
    const begun = log.findLast(({ what }) => what.startsWith('begun'));
    if (!begun) {
      await this.say('begun', facts);
      return parts;
    }
    if (begun.detail.state !== state || begun.detail.depth !== depth) {
      for (const { path } of listing.files) await this.place.cut(path, 0);
      await this.say('begun anew', { ...facts, because: 'the device has changed since' });
      return parts;
    }
    for (const { what, detail } of log.slice(log.lastIndexOf(begun))) {
      if (what !== 'part') continue;
      const known = parts.get(String(detail.path)) ?? [];
      known[Number(detail.part)] = String(detail.sha256);
      parts.set(String(detail.path), known);
    }
    await this.say('taken up again', facts);
    return parts;
  }

  /** Reads what is there of a file again; keeps it up to the first part that is not what was logged. */
  private async verified(
    { path, size }: CopyFile,
    sums: readonly (string | undefined)[],
    hash: ReturnType<typeof sha256.create>
  ): Promise<number> {
    const there = Math.min(size, await this.place.size(path));
    let at = 0;
    for (let n = 0; at < there; n++) {
      const length = Math.min(PART, size - at);
      const bytes = await this.place.read(path, at, length);
      if (bytes.length < length || toHex(sha256(bytes)) !== sums[n]) break;
      hash.update(bytes);
      at += length;
    }
    if ((await this.place.size(path)) > at) await this.place.cut(path, at);
    return at;
  }

  private async *rest(
    { path, size }: CopyFile,
    from: number,
    hash: ReturnType<typeof sha256.create>
  ): AsyncGenerator<CopyEvent> {
    if (size === 0) await this.place.append(path, new Uint8Array(0));
    for (let at = from; at < size; at += PART) {
      await this.mayGoOn();
      const part = yield* this.read(path, at, Math.min(PART, size - at));
      await this.place.append(path, part.bytes);
      await this.say('part', { path, part: at / PART, sha256: part.sha256 });
      hash.update(part.bytes);
      this.done += part.bytes.length;
      yield { type: 'progress', path, ...this.pace.at(this.done, this.total) };
    }
  }

  /** Waits where the other side asks for it. A part that is not what the other side says is asked for once more. */
  private async *read(
    path: string,
    offset: number,
    length: number
  ): AsyncGenerator<CopyEvent, CopyPart> {
    for (let tries = 0; ;) {
      try {
        const part = await this.wire.read(path, offset, length);
        const isWhole = part.bytes.length === length && toHex(sha256(part.bytes)) === part.sha256;
        if (isWhole) return part;
        if (++tries > 1)
          throw new CopyError(
            'damaged-in-transit',
            `${path} arrived damaged twice; the connection or the cable is at fault.`,
            { path, offset }
          );
      } catch (error) {
        if (!(error instanceof WaitError)) throw error;
        const { milliseconds } = error;
        yield { type: 'waiting', milliseconds };
        await this.say('waited', { milliseconds });
        await this.host.sleep(milliseconds);
        await this.mayGoOn();
      }
    }
  }

  private async mayGoOn(): Promise<void> {
    const { gate, signal } = this.host;
    if (gate?.paused) {
      await this.say('paused', {});
      await gate.pass();
      this.pace.begin(this.done);
    }
    if (!signal?.aborted) return;
    await this.say('stopped', {});
    signal.throwIfAborted();
  }

  private async *finish(listing: CopyListing, files: CopiedFile[]): AsyncGenerator<CopyEvent> {
    const { device, facts, depth, kinds, state } = listing;
    const text = { device, facts, depth, kinds, state, files };
    const told = utf8ToBytes(`${JSON.stringify(text, null, 2)}\n`);
    const all = [...files, { path: FACTS_FILE, size: told.length, sha256: toHex(sha256(told)) }];
    for (const [path, bytes] of [
      [FACTS_FILE, told],
      [SUMS_FILE, utf8ToBytes(sumsOf(all))]
    ] as const) {
      await this.place.cut(path, 0);
      await this.place.append(path, bytes);
    }
    await this.say('finished', { files: files.length, bytes: this.total });
    await this.place.finish();
    yield { type: 'done', files: all, total: this.total };
  }

  async say(what: CopyLogEntry['what'] | null, detail: Record<string, unknown>): Promise<void> {
    if (what === null) return;
    const at = new Date(this.host.now()).toISOString();
    await this.place.addToLog({ at, what, detail });
  }
}

/** A list of checksums as `sha256sum -c` reads it, in the order of the paths. */
function sumsOf(files: readonly Pick<CopiedFile, 'path' | 'sha256'>[]): string {
  return [...files]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map(({ path, sha256 }) => `${sha256}  ${path}\n`)
    .join('');
}

/** Time after which a rate can be told, in milliseconds. */
const SETTLED = 300;

/** Rate and time left of a copy. */
class Pace {
  private startedAt: number;
  private from = 0;

  constructor(private readonly now: () => number) {
    this.startedAt = now();
  }

  /** Counts from here on: what came before was kept already, or lies before a pause. */
  begin(done: number): void {
    this.startedAt = this.now();
    this.from = done;
  }

  /** Bytes done and to do, bytes a second, seconds left. */
  at(
    done: number,
    total: number
  ): { done: number; total: number; rate: number | null; secondsLeft: number | null } {
    const passed = this.now() - this.startedAt;
    const rate = passed < SETTLED ? null : ((done - this.from) * 1000) / passed;
    const secondsLeft = rate === null || rate <= 0 ? null : (total - done) / rate;
    return { done, total, rate, secondsLeft };
  }
}
