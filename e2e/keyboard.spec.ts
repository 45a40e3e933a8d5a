import { expect, test, type Locator, type Page } from '@playwright/test';
import { failOnErrors } from './helpers';

test.beforeEach(({ page }) => failOnErrors(page));

/** Presses Tab until something has the focus; what takes too many presses cannot be reached. */
async function tabTo(page: Page, wanted: Locator, most = 60): Promise<void> {
  await wanted.first().waitFor();
  for (let i = 0; i < most; i++) {
    if (await wanted.first().evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`${String(wanted)} was not reached with ${most} presses of Tab`);
}

async function press(page: Page, ...keys: string[]): Promise<void> {
  for (const key of keys) await page.keyboard.press(key);
}

test('a day’s work without a mouse: from the empty casebook to the records', async ({ page }) => {
  await page.goto('/');
  await tabTo(page, page.getByRole('button', { name: 'Open the demo case' }));
  await press(page, 'Enter');
  await expect(page.getByRole('article', { name: 'Source Export from Ragna' })).toContainText(
    /\d live/
  );
  await press(page, 'g', 'r');
  await page.waitForURL('**/read');
  const lines = page.getByRole('article');
  await expect(lines.first()).toBeVisible();

  // A search, all its hits in one list, and from one of them to its place.
  await press(page, '/');
  await page.keyboard.type('deposit');
  const strip = page.getByRole('region', { name: 'What the view is narrowed to' });
  await expect(strip).toContainText('hits of “deposit”');
  await tabTo(page, strip.getByRole('radio', { name: 'in context' }));
  for (const way of ['only the hits', 'as a list']) {
    await press(page, 'ArrowRight');
    await expect(strip.getByRole('radio', { name: way })).toBeFocused();
  }
  await press(page, 'Enter');
  const hits = page.getByRole('listbox', { name: 'All hits' });
  await expect(hits.getByRole('option').first()).toBeVisible();
  await tabTo(page, hits);
  await press(page, 'ArrowDown', 'Enter');
  await expect(page.locator('article:focus').locator('mark').first()).toBeVisible();
  await expect(hits).toHaveCount(0);

  // All hits get a label at once; then the view is narrowed to it.
  await tabTo(page, strip.getByRole('button', { name: 'Label them' }));
  await press(page, 'Enter');
  // What is typed before the field has the focus would be keys of the view.
  await expect(page.getByRole('textbox', { name: 'Label', exact: true })).toBeFocused();
  await page.keyboard.type('money');
  await press(page, 'Enter');
  await expect(page.getByText(/messages labelled “money”/)).toBeVisible();
  await press(page, '/');
  await page.getByLabel('Search this case').press('Control+a');
  await press(page, 'Delete');
  await expect(strip).toHaveCount(0);

  // Days are typed into the calendar’s field.
  await tabTo(page, page.getByRole('button', { name: /^Days shown/ }));
  await press(page, 'Enter');
  await tabTo(page, page.getByRole('dialog', { name: 'Days shown' }).getByLabel('From'));
  await page.keyboard.type('12 Mar 2026');
  await press(page, 'Tab');
  await page.keyboard.type('12 Mar 2026');
  await press(page, 'Tab', 'Escape');
  await expect(page.getByRole('button', { name: 'Days shown: 12 Mar 2026' })).toBeFocused();
  await tabTo(page, strip.getByRole('button', { name: 'of some days, remove' }));
  await press(page, 'Enter');

  // A line is chosen, another is noted.
  await press(page, 'j', 'x');
  await expect(page.getByRole('link', { name: /^1 record selected/ })).toBeVisible();

  // Facets are tabs: arrows go from one to the next.
  await tabTo(page, page.getByRole('tab', { selected: true }));
  for (const name of [/^Calls/, /^Contacts/, /^People/, /^Media/]) {
    await press(page, 'ArrowRight');
    await expect(page.getByRole('tab', { name, selected: true })).toBeFocused();
  }
  const sheet = page.getByRole('main', { name: 'Media' });
  await expect(sheet.getByRole('listitem').first()).toBeVisible();
  await tabTo(page, sheet.getByRole('button', { name: /^Look at/ }));
  await press(page, 'Enter');
  const viewer = page.getByRole('dialog');
  await expect(viewer.getByText(/^1 of \d+$/)).toBeVisible();
  await press(page, 'ArrowRight');
  await expect(viewer.getByText(/^2 of \d+$/)).toBeVisible();
  await press(page, 'Escape');
  await expect(viewer).toHaveCount(0);
  await tabTo(page, sheet.getByRole('checkbox', { name: /^Select/ }));
  await press(page, 'Space');
  await expect(sheet.getByRole('checkbox', { name: /^Select/ }).first()).toBeChecked();
  await expect(page.getByRole('link', { name: /^2 records selected/ })).toBeVisible();

  // The case at a glance, then the records: a preset is kept by its menu.
  await press(page, 'g', 'u');
  await expect(page.getByRole('main', { name: 'Summary of the case' })).toContainText('2 selected');
  await press(page, 'g', 'p');
  await page.locator('canvas[data-page]').waitFor();
  await tabTo(page, page.getByRole('button', { name: 'Save or share' }), 90);
  await press(page, 'Enter');
  // A menu that has just opened chooses its first entry a moment later.
  await expect(page.getByRole('menuitem', { name: 'Save as …' })).toHaveAttribute(
    'data-highlighted'
  );
  await press(page, 'Enter');
  await expect(page.getByLabel('Name of these settings')).toBeFocused();
  await page.keyboard.type('Quay office');
  await press(page, 'Enter');
  await expect(page.getByLabel('Settings for')).toContainText('Quay office');
  await tabTo(page, page.getByRole('button', { name: 'Produce records' }), 90);
  const arriving = page.waitForEvent('download');
  await press(page, 'Enter');
  expect((await arriving).suggestedFilename()).toMatch(/\.zip$/);
});
