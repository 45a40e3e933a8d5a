import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type BrowserContext, type Page } from '@playwright/test';
import { newCase } from '../e2e/helpers';
import { served } from '../scripts/lib/served';
import { scrolledThrough } from './frames';
import { makeLargeStore } from './make-large';
import { peakWhile, rendererMemory } from './renderer-memory';

/**
 * How the application does its work on one large store, beside sha256sum and
 * the command on the same store in the same run. The size of the store in MiB
 * is the first argument; 320 make 1.2 million messages.
 */
const MEBIBYTES = Number(process.argv[2] ?? 32);
/** How many people the messages are from: with few, conversations are long. */
const PEOPLE = Number(process.argv[3] ?? 400);
const LONG = 300_000;

interface Watched {
  longest: number;
  over50: number;
}

async function watch(page: Page): Promise<void> {
  await page.evaluate(() => {
    const target = window as unknown as { held: { longest: number; over50: number } };
    target.held = { longest: 0, over50: 0 };
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) {
        target.held.longest = Math.max(target.held.longest, duration);
        target.held.over50++;
      }
    }).observe({ entryTypes: ['longtask'] });
  });
}

function row(what: string, figure: string): void {
  console.log(`| ${what} | ${figure} |`);
}

function seconds(ms: number): string {
  return `${(ms / 1000).toFixed(2)} s`;
}

async function timed(what: string, work: () => Promise<unknown>): Promise<number> {
  const begun = performance.now();
  await work();
  const took = performance.now() - begun;
  row(what, seconds(took));
  return took;
}

function plain(what: string, command: string, args: string[]): number {
  const begun = performance.now();
  const { status, stderr } = spawnSync(command, args, { encoding: 'utf8' });
  if (status !== 0) throw new Error(`${command} ended with ${status}: ${stderr}`);
  const took = performance.now() - begun;
  row(what, seconds(took));
  return took;
}

const lines = '[role=feed] article';

/** Until a number on the page has stayed the same for a second; gives when it came. */
async function settled(page: Page, read: () => Promise<string>): Promise<number> {
  const begun = performance.now();
  let last = '';
  let since = begun;
  while (performance.now() - since < 1000) {
    const now = await read();
    if (now !== last) [last, since] = [now, performance.now()];
    await page.waitForTimeout(20);
  }
  return since - begun;
}

async function passOver(page: Page, store: string, profile: string): Promise<number> {
  const card = page.getByRole('article', { name: /^Source / });
  await timed('added, and says what it is', async () => {
    await page.getByTestId('files').setInputFiles(store);
    await card.getByText(/telephony provider, /).waitFor({ timeout: LONG });
  });
  const strip = page.getByRole('region', { name: 'Examination in progress' });
  const begun = performance.now();
  const { peak } = await peakWhile(profile, async () => {
    await page.getByRole('button', { name: /^Examine / }).click();
    await page.getByRole('link', { name: 'Read', exact: true }).click();
    await page.locator(lines).first().waitFor({ timeout: LONG });
    row('first lines to be read, from the start of the pass', seconds(performance.now() - begun));
    await strip.waitFor({ state: 'detached', timeout: LONG });
  });
  const took = performance.now() - begun;
  row('pass, until all is kept', seconds(took));
  row('memory of the page and its workers, at most', `${peak.toFixed(0)} MiB`);
  return took;
}

async function reading(page: Page, profile: string): Promise<void> {
  await timed('opening the case again, until lines can be read', async () => {
    await page.reload();
    await page.locator(lines).first().waitFor({ timeout: LONG });
  });
  const hits = (): Promise<string> =>
    page.getByRole('navigation', { name: 'Correspondents' }).innerText();
  const search = page.getByRole('searchbox').first();
  for (const [what, word] of [
    ['a rare word right after opening', '777: '],
    ['a rare word', '1234: '],
    ['a common word', 'herring'],
    ['a word that is nowhere', 'zeppelin']
  ] as const) {
    await search.fill('');
    await settled(page, hits);
    await search.fill(word);
    const took = await settled(page, hits);
    const all = await page.getByRole('button', { name: /^Select all/ }).allInnerTexts();
    const found = /[\d,]+/.exec(all[0] ?? '')?.[0] ?? '0';
    row(`${what} (${found} hits), until all counts stand`, seconds(took));
  }
  await search.fill('');
  await settled(page, hits);
  await page
    .getByRole('navigation', { name: 'Correspondents' })
    .getByRole('button')
    .first()
    .click();
  await page.waitForTimeout(1000);
  const length = await page.locator(lines).first().getAttribute('aria-setsize');
  const frames = await scrolledThrough(page, '.scroll:has([role=feed])', 400);
  const part = ((100 * frames.over34) / frames.count).toFixed(1);
  row(
    `scrolling the longest conversation, ${length} lines, end to end`,
    `${frames.count} frames in ${frames.seconds.toFixed(1)} s, ${part} % over 34 ms, ${frames.over200} over 200 ms, longest ${frames.longest.toFixed(0)} ms`
  );
  row('memory after that', `${rendererMemory(profile).toFixed(0)} MiB`);
}

async function measure(context: BrowserContext, store: string, profile: string): Promise<void> {
  const command = plain('the command', 'npm', [
    ...['run', '--silent', 'examine', '--', store, '--quiet', '--out', `${store}.case.json`]
  ]);
  const page = context.pages()[0] ?? (await context.newPage());
  await newCase(page, 'Measured');
  await watch(page);
  const pass = await passOver(page, store, profile);
  row('pass in the browser to the command', (pass / command).toFixed(2));
  const held = await page.evaluate(() => (window as unknown as { held: Watched }).held);
  row(
    'longest task of the page meanwhile',
    `${held.longest.toFixed(0)} ms, ${held.over50} past 50 ms`
  );
  await reading(page, profile);
}

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-measure-'));
const store = join(folder, 'messages.db');
const profile = join(folder, 'profile');
const count = await makeLargeStore(store, MEBIBYTES, 'telephony', PEOPLE);
console.log(
  `${count.toLocaleString('en')} messages with ${PEOPLE} people, a fifth of them deleted\n`
);
console.log('| step | figure |\n| --- | ---: |');
plain('sha256sum', 'sha256sum', [store]);
try {
  await served('4193', async (baseURL) => {
    const context = await chromium.launchPersistentContext(profile, {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu'],
      baseURL,
      serviceWorkers: 'block',
      viewport: { width: 1280, height: 800 }
    });
    await measure(context, store, profile);
    await context.close();
  });
} finally {
  rmSync(folder, { recursive: true });
}
