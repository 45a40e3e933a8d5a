import type { Page } from '@playwright/test';
import { makeDatabase, temporaryFile } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { newCase } from '../e2e/helpers';
import { withServed } from '../scripts/lib/served';

/** How the application feels while a long pass runs: how long the page was held up, and how long each step took. */
const MESSAGES = Number(process.argv[2] ?? 60_000);

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

function watched(page: Page): Promise<Watched> {
  return page.evaluate(() => (window as unknown as { held: Watched }).held);
}

async function timed(what: string, work: () => Promise<unknown>): Promise<void> {
  const begun = Date.now();
  await work();
  console.log(`| ${what} | ${((Date.now() - begun) / 1000).toFixed(1)} s |`);
}

async function steps(page: Page): Promise<void> {
  await newCase(page, 'Measured');
  await watch(page);
  const store = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(MESSAGES, seeded(6)));
    db.run('DELETE FROM sms WHERE _id % 5 = 0');
  });
  const card = page.getByRole('article', { name: 'Source large.db' });
  await timed('added, and says what it is', async () => {
    await page.getByTestId('files').setInputFiles(temporaryFile('large.db', Buffer.from(store)));
    await card.getByText(/telephony provider, /).waitFor();
  });
  const strip = page.getByRole('region', { name: 'Pass that is running' });
  await timed('pass, until all is found', async () => {
    await page.getByRole('button', { name: /^Examine / }).click();
    await card
      .getByText(/recovered/)
      .first()
      .waitFor({ timeout: 600_000 });
    await strip.waitFor({ state: 'detached', timeout: 600_000 });
  });
  await timed('turning to Read, until a line stands there', async () => {
    await page.getByRole('link', { name: 'Read', exact: true }).click();
    await page.getByRole('article').first().waitFor({ timeout: 120_000 });
  });
  const { longest, over50 } = await watched(page);
  console.log(`\nlongest task of the page ${longest.toFixed(0)} ms, ${over50} past 50 ms`);
}

await withServed('4193', async (browser, baseURL) => {
  console.log(`${MESSAGES} messages, a fifth of them deleted\n\n| step | took |\n| --- | ---: |`);
  const context = await browser.newContext({ baseURL });
  await steps(await context.newPage());
});
