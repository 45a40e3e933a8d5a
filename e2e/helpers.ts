import { expect, type Page } from '@playwright/test';

/** Opens the demo case in a fresh browser and waits until all passes are over. */
export async function openDemo(page: Page): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo case' }).click();
  await page.waitForURL('**/sources');
  await expect(page.getByRole('article', { name: /Source Phone of the treasurer/ })).toContainText(
    /recovered/,
    { timeout: 240_000 }
  );
  await expect(page.getByRole('article', { name: /Source Tablet from the office/ })).toContainText(
    /recovered/,
    { timeout: 240_000 }
  );
  await expect(page.getByRole('article', { name: /Source Export from Ragna/ })).toContainText(
    /live/,
    { timeout: 240_000 }
  );
  await expect(page.getByRole('region', { name: 'Examination in progress' })).toHaveCount(0, {
    timeout: 240_000
  });
}

/** Fails the test when the page writes an error to its console or throws. */
export function failOnErrors(page: Page): void {
  page.on('pageerror', (error) => {
    throw new Error(`The page threw: ${error.message}`);
  });
}

export async function openRead(page: Page, correspondent: RegExp): Promise<void> {
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await page
    .getByRole('navigation', { name: 'Correspondents' })
    .getByRole('button', { name: correspondent })
    .first()
    .click();
}

export async function newCase(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'New case' }).click();
  await page.getByLabel('Case', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Open case' }).click();
  await page.waitForURL('**/sources');
}

/** Closes a dialog by its key, as often as it takes: one that has only just appeared does not hear it yet. */
export async function closeDialog(page: Page): Promise<void> {
  await expect(async () => {
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0, { timeout: 2000 });
  }).toPass();
}
