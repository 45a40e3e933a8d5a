import { expect, test } from '@playwright/test';
import AxeBuilder from '@axe-core/playwright';
import { failOnErrors, openDemo, openRead } from './helpers';

test('from a recovered line to its bytes, its fields and a citation', async ({ page, context }) => {
  failOnErrors(page);
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openDemo(page);
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('Forget Saturday');
  await page.getByRole('article').getByText('Forget Saturday').first().click();
  await page.getByRole('link', { name: 'Look inside' }).click();
  const record = page.getByRole('region', { name: 'Record' });
  await expect(record).toContainText('4 bytes overwritten, rebuilt');
  await expect(record).toContainText('+447700900184');
  await expect(record).toContainText('2026-03-12 08:55:12');
  const bytes = page.getByRole('region', { name: 'Bytes of the page' });
  await expect(bytes).toContainText('46');
  await page.getByRole('button', { name: 'Copy citation' }).click();
  const citation = await page.evaluate(() => navigator.clipboard.readText());
  expect(citation).toMatch(
    /^phone-telephony\.db, SHA-256 [0-9a-f]{64}, page \d+, offset \d+, length \d+$/
  );
  const found = await new AxeBuilder({ page }).analyze();
  expect(
    found.violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')
  ).toEqual([]);
});

test('the page map is walked by keyboard, and says what each page is', async ({ page }) => {
  failOnErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: 'phone-telephony.db', exact: true }).click();
  const map = page.getByRole('slider', { name: 'Page of the file' });
  await map.focus();
  await page.keyboard.press('ArrowRight');
  const before = Number(await map.getAttribute('aria-valuenow'));
  await page.keyboard.press('ArrowRight');
  await expect(map).toHaveAttribute('aria-valuenow', String(before + 1));
  await expect(map).toHaveAttribute('aria-valuetext', /^Page \d+, (table|index|free|overflow)/);
  await expect(page.getByRole('region', { name: 'The file' })).toContainText('free blocks');
});

test('gaps are listed, and lead to the line beside them', async ({ page }) => {
  failOnErrors(page);
  await openDemo(page);
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  const facets = page.getByRole('group', { name: 'Facets' });
  await facets.getByRole('button', { name: /^Gaps/ }).click();
  await expect(page.getByRole('table', { name: 'Gaps' })).toContainText('row numbers');
  await page
    .getByRole('button', { name: /Go to the line/ })
    .first()
    .click();
  await expect(page.getByText(/messages? missing between/).first()).toBeVisible();
});
