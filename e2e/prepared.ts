import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  chromium,
  expect,
  test as plain,
  type Page,
  type PlaywrightTestOptions
} from '@playwright/test';
import { failOnErrors } from './helpers';

/** Where the profile lies in which the demo case was examined. */
export const PREPARED = join(tmpdir(), 'ombudsman-prepared-4191');

/** Where the demo case is in that profile. */
export interface Prepared {
  path: string;
}

type Options = Pick<
  PlaywrightTestOptions,
  'baseURL' | 'viewport' | 'colorScheme' | 'serviceWorkers'
> & {
  launchOptions?: object;
};

/** What a browser with a profile of its own is started with: as the others. */
export function profileOptions({
  baseURL,
  viewport,
  colorScheme,
  serviceWorkers,
  launchOptions
}: Partial<Options>): Parameters<typeof chromium.launchPersistentContext>[1] {
  return { ...launchOptions, baseURL, viewport, colorScheme, serviceWorkers };
}

/** Tests that fail where the page throws; those that ask for `demo` begin in the demo case, examined to the end, in a browser of its own. */
export const test = plain.extend<{ demo: Page }>({
  page: async ({ page }, use) => {
    failOnErrors(page);
    await use(page);
  },
  demo: async ({ launchOptions, baseURL, viewport, colorScheme, serviceWorkers }, use) => {
    const folder = mkdtempSync(join(tmpdir(), 'ombudsman-demo-'));
    cpSync(`${PREPARED}/profile`, folder, { recursive: true });
    const context = await chromium.launchPersistentContext(
      folder,
      profileOptions({ launchOptions, baseURL, viewport, colorScheme, serviceWorkers })
    );
    const page = context.pages()[0] ?? (await context.newPage());
    failOnErrors(page);
    const { path } = JSON.parse(readFileSync(`${PREPARED}/prepared.json`, 'utf8')) as Prepared;
    await page.goto(path);
    await expect(page.getByRole('article', { name: /Source Export from Ragna/ })).toContainText(
      /live/
    );
    await use(page);
    await context.close();
    rmSync(folder, { recursive: true, force: true });
  }
});

export { expect };
