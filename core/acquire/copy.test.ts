import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import fc from 'fast-check';
import {
  CopyError,
  PART,
  SUMS_FILE,
  takeCopy,
  WaitError,
  type CopyEvent,
  type CopyHost,
  type CopyLogEntry,
  type CopyPlace,
  type CopyWire
} from './index';

function sha256(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** Bytes that differ from place to place. */
function filled(size: number, seed: number): Uint8Array {
  return Uint8Array.from({ length: size }, (_, i) => (i * 31 + seed * 7 + (i >> 8)) & 255);
}

class MemoryPlace implements CopyPlace {
  readonly files = new Map<string, Uint8Array>();
  readonly entries: CopyLogEntry[] = [];
  isFinished = false;

  log = (): Promise<CopyLogEntry[]> => Promise.resolve([...this.entries]);
  addToLog(entry: CopyLogEntry): Promise<void> {
    this.entries.push(entry);
    return Promise.resolve();
  }
  size = (path: string): Promise<number> => Promise.resolve(this.files.get(path)?.length ?? 0);
  read = (path: string, offset: number, length: number): Promise<Uint8Array> =>
    Promise.resolve(this.files.get(path)!.slice(offset, offset + length));
  append(path: string, bytes: Uint8Array): Promise<void> {
    const known = this.files.get(path) ?? new Uint8Array(0);
    this.files.set(path, Buffer.concat([known, bytes]));
    return Promise.resolve();
  }
  cut(path: string, size: number): Promise<void> {
    const known = this.files.get(path);
    if (known) this.files.set(path, known.slice(0, size));
    return Promise.resolve();
  }
  finish(): Promise<void> {
    this.isFinished = true;
    return Promise.resolve();
  }
}

const FILES = {
  'a/long.db': filled(3 * PART + 5, 1),
  empty: new Uint8Array(0),
  'b/short.png': filled(700, 2)
};

interface Trouble {
  /** Called before each part is given. */
  before?: (path: string, offset: number) => void;
  state?: string;
  /** Changes what arrives. */
  arrive?: (bytes: Uint8Array) => Uint8Array;
}

function wireOf(files: Record<string, Uint8Array>, trouble: Trouble = {}): CopyWire {
  return {
    list: () =>
      Promise.resolve({
        device: 'd',
        facts: {},
        depth: 'logical',
        kinds: null,
        files: Object.entries(files).map(([path, { length }]) => ({ path, size: length })),
        state: trouble.state ?? 'first'
      }),
    read(path, offset, length) {
      trouble.before?.(path, offset);
      const bytes = files[path]!.slice(offset, offset + length);
      return Promise.resolve({ bytes: trouble.arrive?.(bytes) ?? bytes, sha256: sha256(bytes) });
    }
  };
}

const HOST: CopyHost = { now: () => 1_000, sleep: () => Promise.resolve() };

async function copy(
  wire: CopyWire,
  place: MemoryPlace,
  host: CopyHost = HOST
): Promise<CopyEvent[]> {
  const events: CopyEvent[] = [];
  for await (const event of takeCopy(wire, place, host)) events.push(event);
  return events;
}

function assertWhole(place: MemoryPlace, files: Record<string, Uint8Array> = FILES): void {
  assert.ok(place.isFinished);
  for (const [path, bytes] of Object.entries(files))
    assert.equal(sha256(place.files.get(path)!), sha256(bytes), path);
  const sums = Buffer.from(place.files.get(SUMS_FILE)!).toString().trim().split('\n');
  const told = sums.map((line) => line.split('  ') as [string, string]);
  assert.deepEqual(
    told.map(([, path]) => path),
    [...Object.keys(files), 'copy.json'].sort()
  );
  for (const [sum, path] of told) assert.equal(sum, sha256(place.files.get(path)!));
}

function breaksAt(path: string, offset: number): Trouble {
  let isOver = false;
  return {
    before(at, from) {
      if (isOver || at !== path || from !== offset) return;
      isOver = true;
      throw new CopyError('unplugged', 'The phone was unplugged.', { path, offset });
    }
  };
}

test('a copy holds all files and their checksums, and says how far it is', async () => {
  const place = new MemoryPlace();
  const events = await copy(wireOf(FILES), place);
  assertWhole(place);
  const dones = events.flatMap((event) => (event.type === 'progress' ? [event.done] : []));
  assert.deepEqual(dones, [PART, 2 * PART, 3 * PART, 3 * PART + 5, 3 * PART + 705]);
});

test('wherever it breaks off, the same copy goes on from there', async () => {
  const places: [string, number][] = [
    ['a/long.db', 0],
    ['a/long.db', PART],
    ['a/long.db', 3 * PART],
    ['b/short.png', 0]
  ];
  for (const [path, offset] of places) {
    const place = new MemoryPlace();
    const asked: number[] = [];
    const trouble = breaksAt(path, offset);
    await assert.rejects(copy(wireOf(FILES, trouble), place), CopyError);
    assert.ok(!place.isFinished && !place.files.has(SUMS_FILE));
    const last = place.entries.at(-1)!;
    assert.deepEqual(
      [last.what, last.detail.path, last.detail.offset],
      ['broke off', path, offset]
    );
    await copy(wireOf(FILES, { before: (at, from) => at === path && asked.push(from) }), place);
    assertWhole(place);
    assert.equal(asked[0], offset, 'nothing that was verified is read again');
  }
});

test('a part that was changed on the disk since is read anew', async () => {
  const place = new MemoryPlace();
  await assert.rejects(copy(wireOf(FILES, breaksAt('a/long.db', 3 * PART)), place));
  const kept = Uint8Array.from(place.files.get('a/long.db')!);
  kept[PART + 9]! ^= 1;
  place.files.set('a/long.db', kept);
  const asked: number[] = [];
  await copy(wireOf(FILES, { before: (_, from) => asked.push(from) }), place);
  assertWhole(place);
  assert.equal(asked[0], PART);
});

test('a device that has changed since is copied from the beginning', async () => {
  const place = new MemoryPlace();
  await assert.rejects(copy(wireOf(FILES, breaksAt('a/long.db', PART)), place));
  const other = { ...FILES, 'a/long.db': filled(PART + 1, 9) };
  await copy(wireOf(other, { state: 'second' }), place);
  assertWhole(place, other);
  assert.ok(place.entries.some(({ what }) => what === 'begun anew'));
});

test('what arrives otherwise than it was sent is asked for again once', async () => {
  let bad = 1;
  const damage = (bytes: Uint8Array): Uint8Array =>
    bad-- > 0 ? Uint8Array.from(bytes, (byte, i) => (i === 3 ? byte ^ 1 : byte)) : bytes;
  const place = new MemoryPlace();
  await copy(wireOf(FILES, { arrive: damage }), place);
  assertWhole(place);
  bad = 99;
  await assert.rejects(
    copy(wireOf(FILES, { arrive: damage }), new MemoryPlace()),
    (error: CopyError) => error.fault === 'damaged-in-transit'
  );
});

test('a limit of requests is waited out', async () => {
  let asked = 0;
  const slept: number[] = [];
  const wire = wireOf(FILES, {
    before() {
      if (++asked % 3 === 0) throw new WaitError(40);
    }
  });
  const place = new MemoryPlace();
  const events = await copy(wire, place, {
    ...HOST,
    sleep(milliseconds) {
      slept.push(milliseconds);
      return Promise.resolve();
    }
  });
  assertWhole(place);
  assert.ok(slept.length >= 2 && slept.every((time) => time === 40));
  assert.equal(events.filter(({ type }) => type === 'waiting').length, slept.length);
});

test('a copy that was stopped is taken up again', async () => {
  const stopper = new AbortController();
  const place = new MemoryPlace();
  const wire = wireOf(FILES, { before: (_, from) => from === PART && stopper.abort() });
  await assert.rejects(copy(wire, place, { ...HOST, signal: stopper.signal }));
  assert.ok(!place.isFinished);
  assert.equal(place.entries.at(-1)!.what, 'stopped');
  await copy(wireOf(FILES), place);
  assertWhole(place);
});

test('two copies of one state are the same, however often they broke off', async () => {
  const whole = new MemoryPlace();
  await copy(wireOf(FILES), whole);
  await fc.assert(
    fc.asyncProperty(fc.array(fc.nat(7), { maxLength: 4 }), async (breaks) => {
      const place = new MemoryPlace();
      for (const after of breaks) {
        let left = after;
        const trouble: Trouble = {
          before(path, offset) {
            if (left-- === 0) throw new CopyError('read-error', 'No.', { path, offset });
          }
        };
        if (!place.isFinished) await copy(wireOf(FILES, trouble), place).catch(() => null);
      }
      if (!place.isFinished) await copy(wireOf(FILES), place);
      for (const [path, bytes] of whole.files)
        assert.equal(sha256(place.files.get(path)!), sha256(bytes), path);
    }),
    { numRuns: 60 }
  );
});
