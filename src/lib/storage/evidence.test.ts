import 'fake-indexeddb/auto';
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { newCase, purgeDeleted, putCase } from './casebook';
import { keepFiles, keptBlobs, type HashedFile } from './evidence';
import { openStorage } from './open';

function file(path: string, content: Uint8Array<ArrayBuffer>): HashedFile {
  const sha256 = createHash('sha256').update(content).digest('hex');
  const blob = new Blob([content]);
  return { path, bytes: content.length, sha256, modifiedAt: null, blob };
}

function small(n: number): HashedFile {
  return file(`f${n}`, new TextEncoder().encode(`tide table ${n}`));
}

async function bytesOf(blob: Blob | undefined): Promise<string | null> {
  return blob ? Buffer.from(await blob.arrayBuffer()).toString('latin1') : null;
}

test('small files lie together, large ones by themselves, and each comes back by its checksum', async () => {
  const large = file('large', new Uint8Array(300_000).fill(7));
  const files = [...Array.from({ length: 40 }, (_, n) => small(n)), large];
  await keepFiles(files);
  const db = await openStorage();
  assert.equal(await db.count('packs'), 1);
  const kept = await keptBlobs([...files.map(({ sha256 }) => sha256), 'nothing']);
  for (const [i, { blob }] of files.entries())
    assert.equal(await bytesOf(kept[i]), await bytesOf(blob), files[i]!.path);
  assert.equal(kept.at(-1), undefined);
  // What is kept already is not kept twice.
  await keepFiles([small(3), small(100)]);
  assert.equal(await db.count('blobs'), 42);
  assert.equal(await db.count('packs'), 2);
});

test('a pack goes when no case needs a file of it any more', async () => {
  const db = await openStorage();
  for (const name of ['blobs', 'packs', 'cases'] as const) await db.clear(name);
  await keepFiles([small(1), small(2)]);
  await keepFiles([small(3)]);
  await putCase({ ...newCase('Gone', '', 'UTC'), deletedAt: 1 });
  const kept = newCase('Kept', '', 'UTC');
  await putCase(kept);
  const { path, bytes, sha256 } = small(2);
  const source = { id: 's1', name: 'x', addedAt: 1, source: null, stores: [], glance: null };
  await db.put('sources', {
    ...source,
    key: `${kept.id}/s1`,
    caseId: kept.id,
    files: [{ path, bytes, sha256 }],
    pass: { state: 'none' }
  });
  await purgeDeleted(Date.now());
  assert.deepEqual(await db.getAllKeys('blobs'), [sha256]);
  assert.equal(await db.count('packs'), 1);
  const [left] = await keptBlobs([sha256]);
  assert.equal(await bytesOf(left), 'tide table 2');
});
