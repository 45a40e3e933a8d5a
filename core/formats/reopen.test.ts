import assert from 'node:assert/strict';
import { createCipheriv } from 'node:crypto';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemoryScratch, MemorySource, SliceSource, type ByteSource } from '../host';
import { CbcSource } from './keys/aes';
import { reopen, unlockedOnce } from './reopen';

/** A source that a host can open again, by a number. */
class HostSource extends MemorySource {
  constructor(
    readonly handle: number,
    private readonly all: Uint8Array
  ) {
    super(`file ${handle}`, all);
  }
  readInto(target: Uint8Array, offset: number): number {
    const bytes = this.all.subarray(offset, offset + target.length);
    target.set(bytes);
    return bytes.length;
  }
}

const key = new Uint8Array(32).fill(9);

function locked(bytes: Uint8Array): Uint8Array {
  const cipher = createCipheriv('aes-256-cbc', key, new Uint8Array(16));
  return Buffer.concat([cipher.update(bytes), cipher.final()]);
}

function drained<T>(work: Generator<unknown, T>): T {
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
}

test('a part of a part of a locked part is opened again elsewhere, and reads the same bytes', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 40, maxLength: 400 }),
      fc.array(fc.tuple(fc.nat(60), fc.nat(300)), { minLength: 1, maxLength: 3 }),
      fc.boolean(),
      fc.nat(80),
      fc.nat(200),
      (bytes, cuts, isLocked, offset, length) => {
        const files = [bytes, locked(bytes)];
        const host = (handle: unknown): ByteSource => {
          assert.ok(handle === 0 || handle === 1);
          return new HostSource(handle, files[handle]!);
        };
        let source: ByteSource = host(isLocked ? 1 : 0);
        if (isLocked) source = new CbcSource('plain', source, key, null);
        for (const [start, size] of cuts)
          source = new SliceSource('part', source, Math.min(start, source.size), size);
        // Handles are cloned on their way to another thread.
        const again = reopen(structuredClone(source.handle), host);
        assert.deepEqual([again.name, again.size], [source.name, source.size]);
        assert.deepEqual(again.read(offset, length), source.read(offset, length));
        const target = new Uint8Array(length);
        const count = again.readInto!(target, offset);
        assert.deepEqual(target.subarray(0, count), source.read(offset, length));
      }
    )
  );
});

test('what no host can open again has no handle, whatever is made of it', () => {
  const inner = new MemorySource('memory', new Uint8Array(64));
  assert.equal(new SliceSource('part', inner, 0, 10).handle, undefined);
  assert.equal(new CbcSource('plain', inner, key, 20).handle, undefined);
  assert.equal(new SliceSource('part', inner, 0, 10).readInto, undefined);
});

test('a large locked source is unlocked once; a small one, and one without room, stay as they are', () => {
  const bytes = new Uint8Array((1 << 20) + 5).map((_, i) => i * 31);
  const large = new CbcSource('large', new MemorySource('x', locked(bytes)), key, bytes.length);
  const plain = drained(unlockedOnce(large, () => new MemoryScratch()));
  assert.notEqual(plain, large);
  assert.deepEqual([plain.name, plain.size], ['large', bytes.length]);
  assert.deepEqual(plain.read(0, bytes.length), bytes);
  const small = new CbcSource(
    'small',
    new MemorySource('x', locked(bytes.subarray(0, 99))),
    key,
    99
  );
  assert.equal(drained(unlockedOnce(small, () => new MemoryScratch())), small);
  const full = Object.assign(new Error('full'), { syscall: 'write', code: 'ENOSPC' });
  const noRoom = (): MemoryScratch => {
    throw full;
  };
  assert.equal(drained(unlockedOnce(large, noRoom)), large);
  const broken = (): MemoryScratch => {
    throw new TypeError('broken');
  };
  assert.throws(() => drained(unlockedOnce(large, broken)), TypeError);
});
