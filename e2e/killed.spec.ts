import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, expect, test, type BrowserContext, type Page } from '@playwright/test';
import { makeDatabase, temporaryFile } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { newCase } from './helpers';

function store(name: string, count: number): string {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(count, seeded(count)));
    db.run('DELETE FROM sms WHERE _id % 5 = 0');
  });
  return temporaryFile(name, Buffer.from(bytes));
}

function started(profile: string, baseURL: string): Promise<BrowserContext> {
  return chromium.launchPersistentContext(profile, {
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
    baseURL,
    serviceWorkers: 'block'
  });
}

/** Ends the browser's processes without a word to them. */
function kill(profile: string): void {
  for (const pid of readdirSync('/proc')) {
    if (!/^\d+$/.test(pid)) continue;
    try {
      if (readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(profile))
        process.kill(Number(pid), 'SIGKILL');
    } catch (error) {
      // It ended by itself, or with the others.
      if (!/ENOENT|ESRCH/.test(String(error))) throw error;
    }
  }
}

const card = (page: Page, name: string) => page.getByRole('article', { name: `Source ${name}` });
const strip = (page: Page) => page.getByRole('region', { name: 'Examination in progress' });

for (const moment of [/found [1-9]/, /searching freed space|joining messages/, /keeping line/]) {
  test(`the browser is killed while a pass says ${moment.source}: what was kept stays, the rest is taken up again`, async ({
    baseURL
  }) => {
    const profile = mkdtempSync(join(tmpdir(), 'ombudsman-killed-'));
    const first = await started(profile, baseURL!);
    const page = first.pages()[0]!;
    await newCase(page, 'Killed');
    const url = page.url();
    await page.getByTestId('files').setInputFiles(store('small.db', 500));
    await page.getByRole('button', { name: 'Examine small.db' }).click();
    await expect(card(page, 'small.db')).toContainText('400 live');
    await page.getByTestId('files').setInputFiles(store('large.db', 60_000));
    await page.getByRole('button', { name: 'Examine large.db' }).click();
    await expect(strip(page)).toContainText(moment);
    kill(profile);
    await first.close().catch(() => undefined);

    const second = await started(profile, baseURL!);
    const again = second.pages()[0]!;
    await again.goto(url);
    await expect(card(again, 'small.db')).toContainText('400 live');
    await expect(card(again, 'large.db')).toContainText('48,000 live');
    await expect(strip(again)).toHaveCount(0);
    await second.close();
    rmSync(profile, { recursive: true, force: true });
  });
}
