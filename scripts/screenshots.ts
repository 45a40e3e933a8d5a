import { mkdirSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { BACKUP_PASSWORD } from '../demo/more';
import { openDemo, openRead } from '../e2e/helpers';
import { withServed } from './lib/served';

// One picture of each main view, from the demo case, at the reference size.
const FOLDER = 'docs/screenshots';

async function main(): Promise<void> {
  mkdirSync(FOLDER, { recursive: true });
  await withServed('4192', async (browser, baseURL) => {
    for (const scheme of ['light', 'dark'] as const) {
      const viewport = { width: 1280, height: 800 };
      const context = await browser.newContext({ baseURL, viewport, colorScheme: scheme });
      await walk(await context.newPage(), scheme === 'light' ? '' : '-dark');
      await context.close();
    }
  });
}

/** A line that a commit of a log deleted. */
async function shootHistory(page: Page, shoot: (name: string) => Promise<void>): Promise<void> {
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('oak for half');
  await page.getByRole('article').getByText('oak for half').first().click();
  await page.getByRole('link', { name: 'Look inside' }).click();
  await page.waitForTimeout(2000);
  await shoot('history');
}

/** The newest handset, with one question answered and one still open. */
async function shootBench(page: Page, shoot: (name: string) => Promise<void>): Promise<void> {
  await page.getByRole('link', { name: 'Copy on the bench' }).click();
  await page.getByRole('button', { name: 'Take another cable' }).click();
  await page.getByRole('button', { name: 'The client switches it on' }).click();
  await page.getByRole('button', { name: 'Ask the phone' }).first().click();
  await page.getByRole('button', { name: 'Refuse' }).click();
  await page.getByRole('button', { name: 'Ask the phone' }).first().click();
  await page.getByRole('region', { name: 'The phone asks' }).waitFor();
  await shoot('bench');
  await page.getByRole('link', { name: 'Sources', exact: true }).click();
}

/** A picture in full size, with what is known of it. */
async function shootViewer(page: Page, shoot: (name: string) => Promise<void>): Promise<void> {
  await page.getByRole('button', { name: 'Look at hull-plan.png' }).click();
  await page.getByText('image/png').waitFor();
  await shoot('viewer');
  await page.keyboard.press('Escape');
}

/** Addresses that may be one person's, and why others are. */
async function shootPeople(page: Page, shoot: (name: string) => Promise<void>): Promise<void> {
  await page
    .getByRole('tablist', { name: 'Facets' })
    .getByRole('tab', { name: /^People/ })
    .click();
  const pair = page.getByRole('listitem').filter({ hasText: 'ingrid.mo' });
  await pair.getByRole('button', { name: 'One person' }).click();
  await page
    .getByRole('row')
    .filter({ hasText: 'ingrid.mo' })
    .getByRole('button', { name: /^Details/ })
    .click();
  await shoot('people');
  await page.getByRole('link', { name: 'Summary', exact: true }).click();
  await page.getByRole('heading', { name: 'Gaps' }).waitFor();
  await shoot('summary');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
}

/** What of each list goes onto the exhibit list. */
const CHOSEN: Record<string, RegExp> = {
  Calls: /^Select row 1$/,
  Media: /^Select slip-1/,
  Gaps: /^Select row 1$/
};

async function walk(page: Page, end: string): Promise<void> {
  const shoot = async (name: string): Promise<void> => {
    await page.waitForTimeout(900);
    await page.screenshot({ path: `${FOLDER}/${name}${end}.png` });
  };
  await openDemo(page);
  if (end === '') {
    await page.getByRole('link', { name: 'Intake', exact: true }).click();
    await page.getByRole('heading', { name: 'Route plan' }).waitFor();
    await shoot('intake');
    await page.getByRole('link', { name: 'Sources', exact: true }).click();
    await shootBench(page, shoot);
    await unlockAndShoot(page, shoot);
  }
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('receipt');
  const first = page.getByRole('article').filter({ hasText: 'No receipt' });
  await first.getByText('No receipt').click();
  await page.getByLabel('Search this case').fill('');
  await page.waitForTimeout(600);
  const line = page.getByRole('article').filter({ hasText: 'Forget Saturday' });
  await line.getByRole('button', { name: /Select line/ }).click();
  for (let i = 0; i < 4; i++) await page.keyboard.press('j');
  await page.keyboard.press('Shift+X');
  for (let i = 0; i < 4; i++) await page.keyboard.press('k');
  await shoot('read');
  if (end !== '') return;
  for (const name of ['Calls', 'Media', 'Files', 'Gaps']) {
    await page
      .getByRole('tablist', { name: 'Facets' })
      .getByRole('tab', { name: new RegExp(`^${name}`) })
      .click();
    await page.waitForTimeout(1500);
    if (name !== 'Files') await page.getByRole('checkbox', { name: CHOSEN[name]! }).click();
    await shoot(name.toLowerCase());
    if (name === 'Media') await shootViewer(page, shoot);
  }
  await shootPeople(page, shoot);
  await page
    .getByRole('tablist', { name: 'Facets' })
    .getByRole('tab', { name: /^Messages/ })
    .click();
  await page.getByRole('link', { name: 'Look inside' }).click();
  await page.waitForTimeout(2000);
  await shoot('inside');
  await shootHistory(page, shoot);
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  await page.getByLabel('Settings for').selectOption({ label: 'For a court' });
  await page.locator('canvas[data-page]').waitFor();
  await page.waitForTimeout(4000);
  await shoot('produce');
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await page.getByText('The chain holds.').waitFor();
  await shoot('log');
  await page.goto('/');
  await shoot('casebook');
}

/** The shelf with a locked source, and with what its password opened; then the profile desk. */
async function unlockAndShoot(page: Page, shoot: (name: string) => Promise<void>): Promise<void> {
  const card = page.getByRole('article', { name: 'Source Backup of the new phone' });
  await card.evaluate((element) => element.scrollIntoView({ block: 'start' }));
  await shoot('sources');
  await card.getByLabel(/^Password for/).fill(BACKUP_PASSWORD);
  await page.keyboard.press('Enter');
  await card.getByText('2 recently deleted').waitFor({ timeout: 60_000 });
  await page.getByRole('link', { name: 'worked out' }).click();
  await page.getByText('newest first').waitFor();
  await shoot('profile');
  await page.getByRole('link', { name: 'Sources', exact: true }).first().click();
}

await main();
