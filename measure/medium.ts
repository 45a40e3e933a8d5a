// How much of what was written to media comes back: live files, deleted ones whose bytes are all there, their names, and what was never there.
import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FORMATS, type ListedFile } from '../core/formats';
import { MemoryScratch, MemorySource } from '../core/host';
import { isThere, makeImage, readImage, SHAPES, type Shape, type Truth } from './media-images';

const MEDIUM = FORMATS.find(({ kind }) => kind === 'medium')!;

interface Found {
  path: string;
  sha256: string;
  file: ListedFile;
}

function filesOf(image: Buffer): Found[] {
  const source = new MemorySource('image', new Uint8Array(image));
  const work = MEDIUM.open(source, '', { keys: [], scratch: () => new MemoryScratch() });
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value.files
    .filter(({ isUnallocated }) => !isUnallocated)
    .map((file) => {
      const opened = file.open();
      let at = opened.next();
      while (!at.done) at = opened.next();
      const bytes = at.value.read(0, at.value.size);
      return {
        path: file.path.normalize('NFC'),
        sha256: createHash('sha256').update(bytes).digest('hex'),
        file
      };
    });
}

function row(shape: Shape, folder: string): string {
  const { image, truth } = makeImage(shape, folder);
  const bytes = readImage(image);
  const begun = performance.now();
  const found = filesOf(bytes);
  const took = performance.now() - begun;
  const { live, there, back, named, invented } = judged(bytes, truth, found);
  const cells = [
    shape.name,
    `${live} of ${truth.live.size}`,
    `${back} of ${there}`,
    `${named} of ${there}`,
    invented,
    `${(took / 1000).toFixed(2)} s`
  ];
  return `| ${cells.join(' | ')} |`;
}

function judged(
  image: Buffer,
  truth: Truth,
  found: Found[]
): Record<'live' | 'there' | 'back' | 'named' | 'invented', number> {
  const isLive = ({ file }: Found): boolean => !file.deleted;
  const bySum = new Map<string, Found[]>();
  for (const one of found) bySum.set(one.sha256, [...(bySum.get(one.sha256) ?? []), one]);
  const live = [...truth.live].filter(([path, sha256]) =>
    (bySum.get(sha256) ?? []).some((one) => isLive(one) && one.path === path)
  ).length;
  let [there, back, named] = [0, 0, 0];
  for (const [path, { sha256, bytes }] of truth.deleted) {
    // What is empty can be told by its name alone.
    if (bytes.length === 0 || !isThere(image, bytes)) continue;
    there++;
    const ways = (bySum.get(sha256) ?? []).filter((one) => !isLive(one));
    if (ways.length > 0) back++;
    else if (process.env.SHOW) console.error('not back', path, bytes.length);
    if (ways.some((one) => one.path === `deleted/${path}`)) named++;
    else if (process.env.SHOW && ways[0]) console.error('named', ways[0].path, path);
  }
  const known = new Set(truth.live.keys());
  // A live file that nobody wrote, or a deleted one that claims to be whole and is a mixture of others.
  const invented = found.filter(
    (one) => isLive(one) && !known.has(one.path) && !/^(\$|lost\+found)/.test(one.path)
  ).length;
  return { live, there, back, named, invented };
}

const folder = mkdtempSync(join(tmpdir(), 'media-'));
console.log(
  '| medium | live files | deleted ones, all bytes there | with their names | invented | time |'
);
console.log('| --- | ---: | ---: | ---: | ---: | ---: |');
for (const shape of SHAPES) console.log(row(shape, folder));
rmSync(folder, { recursive: true });
