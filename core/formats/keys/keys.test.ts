import assert from 'node:assert/strict';
import { createCipheriv, pbkdf2Sync, randomBytes } from 'node:crypto';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { PackageError, type PackageStep } from '../types';
import { CbcSource, paddingOf, unwrapKey } from './aes';
import { deriveKey, type Derivation } from './derive';
import { parseKeyBag } from './keybag';

async function derived(from: Derivation): Promise<{ key: Uint8Array; steps: PackageStep[] }> {
  const work = deriveKey('file', from);
  const steps: PackageStep[] = [];
  for (let step = work.next(); ; step = work.next()) {
    if (step.done) return { key: step.value, steps };
    steps.push(step.value);
    await step.value.until;
  }
}

test('keys are derived as the system’s own library derives them', async () => {
  const bytes = fc.uint8Array({ maxLength: 150 });
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom('sha1' as const, 'sha256' as const),
      bytes,
      bytes,
      // Below and above what is left to the host.
      fc.oneof(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 20_001, max: 20_010 })),
      fc.integer({ min: 1, max: 70 }),
      async (hash, password, salt, rounds, length) => {
        const { key } = await derived({ hash, password, salt, rounds, length });
        assert.deepEqual(Buffer.from(key), pbkdf2Sync(password, salt, rounds, length, hash));
      }
    )
  );
});

test('a long derivation says how far it is, is done once, and absurd ones are refused', async () => {
  const base = {
    hash: 'sha256' as const,
    password: Buffer.from('a'),
    salt: Buffer.from('b'),
    length: 32
  };
  const { steps } = await derived({ ...base, rounds: 2_000_001 });
  const parts = steps.map(({ done, total }) => done / total);
  assert.ok(steps.length >= 2 && parts[0] === 0);
  assert.deepEqual(
    parts,
    [...parts].sort((a, b) => a - b)
  );
  assert.deepEqual((await derived({ ...base, rounds: 2_000_001 })).steps, []);
  for (const rounds of [0, -1, NaN, 2e9]) {
    await assert.rejects(derived({ ...base, rounds }), PackageError);
  }
});

test('any range of encrypted data reads as the plain data do', () => {
  const key = randomBytes(32);
  const iv = randomBytes(16);
  const plain = randomBytes(1000);
  const cipher = createCipheriv('aes-256-cbc', key, iv);
  const packed = Buffer.concat([cipher.update(plain), cipher.final()]);
  const source = new CbcSource('x', new MemorySource('x', packed), key, null, iv);
  assert.equal(source.size, plain.length);
  fc.assert(
    fc.property(fc.nat(1100), fc.nat(300), (offset, length) => {
      assert.deepEqual(
        Buffer.from(source.read(offset, length)),
        plain.subarray(offset, offset + length)
      );
    })
  );
});

test('keys unwrap only under the key that wrapped them', () => {
  const [kek, key] = [randomBytes(32), randomBytes(32)];
  const cipher = createCipheriv('id-aes256-wrap', kek, Buffer.alloc(8, 0xa6));
  const wrapped = Buffer.concat([cipher.update(key), cipher.final()]);
  assert.deepEqual(Buffer.from(unwrapKey(kek, wrapped)!), key);
  assert.equal(unwrapKey(randomBytes(32), wrapped), null);
  for (const length of [0, 8, 23, 25]) assert.equal(unwrapKey(kek, Buffer.alloc(length)), null);
});

test('padding is told from data', () => {
  assert.equal(paddingOf(Buffer.from([1, 2, 3, 3, 3])), 3);
  assert.equal(paddingOf(Buffer.from([1, 2, 3, 4, 3])), null);
  assert.equal(paddingOf(Buffer.from([0])), null);
  assert.equal(paddingOf(Buffer.alloc(16, 16)), 16);
});

test('key bags without what they need are refused, whatever their bytes', () => {
  assert.throws(() => parseKeyBag(Buffer.from('UUID'), 'f'), PackageError);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
      try {
        parseKeyBag(bytes, 'f');
      } catch (error) {
        assert.ok(error instanceof PackageError);
      }
    })
  );
});
