import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { zipSync, type Zippable } from 'fflate';
import { newCase } from '../e2e/helpers';
import { jpegOf } from '../core/tests/production-case';
import { withServed } from '../scripts/lib/served';
import { scrolledThrough } from './frames';

/** How a sheet of many pictures scrolls, and how long it takes to be shown and compared. */
const FILES = Number(process.argv[2] ?? 20_000);
/** Comparing takes long: it is asked for by a second word. */
const COMPARES = process.argv[3] === 'compare';
const KINDS = 64;
const DAY = 86_400_000;

const folder = mkdtempSync(join(tmpdir(), 'media-'));
try {
  const archive = join(folder, 'pictures.zip');
  writeFileSync(archive, made());
  await withServed('4195', async (browser, baseURL) => {
    const context = await browser.newContext({ baseURL, viewport: { width: 1280, height: 800 } });
    await measure(await context.newPage(), archive);
  });
} finally {
  rmSync(folder, { recursive: true });
}

/** An archive of pictures, no two of the same bytes, of some five hundred days. */
function made(): Uint8Array {
  const pictures = Array.from({ length: KINDS }, (_, i) => jpegOf(640, 480, i));
  const files: Zippable = {};
  for (let i = 0; i < FILES; i++) {
    const bytes = new Uint8Array(pictures[i % KINDS]!.length + 4);
    bytes.set(pictures[i % KINDS]!);
    new DataView(bytes.buffer).setUint32(bytes.length - 4, i);
    const mtime = new Date(Date.UTC(2025, 0, 1) + (i % 500) * DAY);
    files[`DCIM/IMG_${i}.jpg`] = [bytes, { level: 0, mtime }];
  }
  return zipSync(files);
}

async function measure(page: Page, archive: string): Promise<void> {
  await newCase(page, 'Pictures');
  await page.getByTestId('files').setInputFiles(archive);
  const examine = page.getByRole('button', { name: /^(Examine)/ }).first();
  await examine.click({ timeout: 120_000 });
  await page.getByRole('region', { name: 'Examination in progress' }).waitFor({ timeout: 60_000 });
  await page
    .getByRole('region', { name: 'Examination in progress' })
    .waitFor({ state: 'detached', timeout: 600_000 });
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  const media = page.getByRole('tablist', { name: 'Facets' }).getByRole('tab', { name: /^Media/ });
  await media.waitFor();
  const begun = performance.now();
  await media.click();
  await page.locator('.tile img').first().waitFor({ timeout: 60_000 });
  const shown = performance.now() - begun;
  const frames = await scrolledThrough(page, 'main[aria-label=Media] .scroll', 300);
  const late = ((100 * frames.over34) / frames.count).toFixed(1);
  console.log(`| measured, ${FILES.toLocaleString('en')} pictures | |`);
  console.log('| --- | --- |');
  console.log(`| the first pictures, from the press on Media | ${(shown / 1000).toFixed(2)} s |`);
  console.log(
    `| scrolling end to end | ${frames.count} frames in ${frames.seconds.toFixed(1)} s, ${late} % over 34 ms, ${frames.over200} over 200 ms, longest ${frames.longest.toFixed(0)} ms |`
  );
  if (!COMPARES) return;
  const compared = performance.now();
  await page.getByRole('button', { name: 'Show lookalikes as one' }).click();
  await page.getByRole('button', { name: 'Show each' }).waitFor({ timeout: 600_000 });
  console.log(`| comparing all | ${((performance.now() - compared) / 1000).toFixed(1)} s |`);
}
