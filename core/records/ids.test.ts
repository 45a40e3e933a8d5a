import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { test } from 'node:test';
import { listOfFiles, sourceIn, storeId } from './ids';

const sha256 = (bytes: string | Buffer): string => createHash('sha256').update(bytes).digest('hex');

test('the checksum of a folder is the one that the documented command prints', () => {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-sum-'));
  try {
    const files: Record<string, string> = {
      'b.txt': 'two',
      'a/z.db': 'one',
      'a.txt': '',
      'Z.txt': 'capital',
      'sk\u00e6r/\u6e2f.txt': 'far',
      '\u{1f6f6}.txt': 'beyond',
      '\uff5a.txt': 'wide'
    };
    for (const [path, text] of Object.entries(files)) {
      mkdirSync(dirname(join(folder, path)), { recursive: true });
      writeFileSync(join(folder, path), text);
    }
    const list = listOfFiles(
      Object.entries(files).map(([path, text]) => ({
        path,
        bytes: Buffer.byteLength(text),
        sha256: sha256(text)
      }))
    )!;
    const documented = /```\n(find [^]*?)```/.exec(readFileSync('docs/evidence.md', 'utf8'))![1]!;
    const printed = execFileSync('bash', ['-c', documented], { cwd: folder, encoding: 'utf8' });
    assert.equal(printed.split(' ')[0], sha256(list));
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test('a folder of which one file was not hashed has no checksum', () => {
  assert.equal(listOfFiles([{ path: 'a', bytes: 1, sha256: '' }]), null);
});

test('ids of stores hang on source, path and profile alone, and name their source', () => {
  const id = storeId('s3', 'a/b.db', 'chat');
  assert.equal(id, storeId('s3', 'a/b.db', 'chat'));
  for (const other of [
    storeId('s4', 'a/b.db', 'chat'),
    storeId('s3', 'a/c.db', 'chat'),
    storeId('s3', 'a/b.db', 'calls')
  ])
    assert.notEqual(other, id);
  assert.equal(sourceIn(`${id}/m/1.5`), 's3');
  assert.equal(sourceIn('s3'), 's3');
});
