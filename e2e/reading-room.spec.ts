import { type Locator, type Page } from '@playwright/test';
import { expect, test } from './prepared';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { makeDatabase } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { closeDialog, openRead } from './helpers';

function facet(page: Page, name: RegExp): Locator {
  return page.getByRole('tablist', { name: 'Facets' }).getByRole('tab', { name });
}

function people(page: Page): Locator {
  return page.getByRole('navigation', { name: 'Correspondents' }).getByRole('button');
}

test('evidence that is dropped on an empty casebook begins a case', async ({ page }) => {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(40, seeded(2)));
    db.run('DELETE FROM sms WHERE _id = 7');
  });
  const path = join(mkdtempSync(join(tmpdir(), 'drop-')), 'phone.db');
  writeFileSync(path, bytes);
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Drop evidence here to begin' })).toBeVisible();
  await page.getByTestId('evidence').setInputFiles(path);
  await page.waitForURL('**/sources');
  await expect(page.getByRole('article', { name: 'Source phone.db' })).toBeVisible();
  await page.getByRole('button', { name: /^Examine phone/ }).click();
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await expect(page.getByRole('note')).toContainText('The marks down the middle');
  await page.getByRole('button', { name: 'All marks' }).click();
  await expect(page.getByRole('dialog')).toContainText('It was deleted and was recovered in full');
  await closeDialog(page);
  await expect(page.getByRole('note')).toHaveCount(0);
});

test('addresses of one person are joined, parted and named; the reason is told', async ({
  demo: page
}) => {
  await openRead(page, /Halvard Nystuen/);
  await expect(people(page).filter({ hasText: 'Halvard Nystuen' })).toHaveCount(2);
  await facet(page, /^People/).click();
  const pair = page.getByRole('listitem').filter({ hasText: 'halvard.yard' });
  await expect(pair).toContainText('Both are called Halvard Nystuen.');
  await pair.getByRole('button', { name: 'One person' }).click();
  await expect(pair).toHaveCount(0);
  const table = page.getByRole('table', { name: 'People' });
  const row = table.getByRole('row').filter({ hasText: 'halvard.yard' });
  await expect(row).toContainText('+44 7700 900184');
  await row.getByRole('button', { name: 'Details of Halvard Nystuen' }).click();
  const person = page.getByRole('complementary', { name: 'Person' });
  await expect(person).toContainText('Joined by hand.');
  await person.getByRole('button', { name: /^Read \d+ messages/ }).click();
  await expect(people(page).filter({ hasText: 'Halvard Nystuen' })).toHaveCount(1);
  await expect(people(page).filter({ hasText: 'Halvard Nystuen' })).toContainText('and 1 more');

  // Found by the handle, as by the number; and the reason is one press away.
  await page.getByLabel('Search this case').fill('halvard.yard');
  await expect(people(page).filter({ hasText: 'Halvard Nystuen' })).toHaveCount(1);
  await page.getByLabel('Search this case').fill('');
  await page
    .getByRole('button', { name: /and 1 more/ })
    .last()
    .click();
  const apart = person.getByRole('button', { name: 'Remove halvard.yard from this person' });
  await apart.click();
  await expect(apart).toHaveCount(0);
  await page.reload();
  await facet(page, /^Messages/).click();
  await expect(people(page).filter({ hasText: 'Halvard Nystuen' })).toHaveCount(2);
});

test('names are imported from a table and found; what is none says why', async ({ demo: page }) => {
  await openRead(page, /900770/);
  await facet(page, /^People/).click();
  await page.getByTestId('names-file').setInputFiles({
    name: 'names.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('Name,Phone\nTorfinn Berge,07700 900770\n')
  });
  await expect(page.getByText('1 name imported, 1 of them of people in this case.')).toBeVisible();
  await facet(page, /^Messages/).click();
  await expect(people(page).filter({ hasText: 'Torfinn Berge' })).toHaveCount(1);
  await facet(page, /^People/).click();
  await page.getByTestId('names-file').setInputFiles({
    name: 'picture.jpg',
    mimeType: 'image/jpeg',
    buffer: Buffer.from([0xff, 0xd8, 0xff])
  });
  await expect(page.getByRole('alert')).toContainText('picture.jpg: ');
});

test('correspondents are ordered and narrowed, and notices stand apart', async ({ demo: page }) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Order of correspondents').selectOption('name');
  await expect(people(page).first()).toContainText('Bjarne Tveit');
  await page.getByLabel('Kind of correspondents').selectOption('groups');
  await expect(people(page)).toHaveCount(2);
  await page.getByLabel('Kind of correspondents').selectOption('all');
  const notices = people(page).filter({ hasText: 'Automated messages' });
  await notices.scrollIntoViewIfNeeded();
  await expect(notices).toContainText('from 1 sender');
  await expect(people(page).filter({ hasText: '72022' })).toHaveCount(0);
  await notices.click();
  await expect(people(page).filter({ hasText: '72022' })).toHaveCount(1);

  await page.getByRole('button', { name: 'Narrow the view' }).click();
  await page.getByLabel('In which source').selectOption({ label: 'Office computer' });
  await page.keyboard.press('Escape');
  const strip = page.getByRole('region', { name: 'What the view is narrowed to' });
  await expect(strip).toContainText('in Office computer');
  await expect(people(page).filter({ hasText: 'Sunniva' })).toHaveCount(0);
  await strip.getByRole('button', { name: /^in Office computer, remove/ }).click();
  await expect(strip).toHaveCount(0);
});

test('days are written with the month’s name, and those before the deletion are at hand', async ({
  demo: page
}) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByRole('button', { name: /^Days shown: All days/ }).click();
  await page.getByRole('button', { name: 'Last 30 days before the deletion' }).click();
  await expect(
    page.getByRole('button', { name: /^Days shown: \d+ [A-Z][a-z]+ 2026 – / })
  ).toBeVisible();
  await page.getByRole('button', { name: /^Days shown/ }).click();
  await page.getByLabel('From', { exact: true }).fill('12 Mar 2026');
  await page.getByLabel('From', { exact: true }).press('Tab');
  await page.getByLabel('to', { exact: true }).fill('2026-03-12');
  await page.getByLabel('to', { exact: true }).press('Tab');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Days shown: 12 Mar 2026' })).toBeVisible();
  await expect(page.getByRole('article').first()).toContainText('12 March 2026');
});

test('a line is noted and labelled, found by it, and both go with the case file', async ({
  demo: page
}) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('red paint tin');
  await page.getByRole('article').filter({ hasText: 'red paint tin' }).click();
  await page.getByLabel('Note on this message').fill('where the money went');
  await page.getByLabel('Note on this message').blur();
  await page.getByPlaceholder('Add a label').fill('cash');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article').filter({ hasText: 'red paint tin' })).toContainText(
    'where the money went'
  );
  await page.getByLabel('Search this case').fill('where the money');
  await expect(people(page)).toHaveCount(1);
  await page.getByLabel('Search this case').fill('');
  await page.getByRole('button', { name: 'Narrow the view' }).click();
  await page.getByLabel('Labels of what is shown').selectOption('cash');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('article')).toHaveCount(1);

  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  const arriving = page.waitForEvent('download');
  await page
    .getByRole('button', { name: /case file/i })
    .first()
    .click();
  const path = await (await arriving).path();
  await page.goto('/');
  await page.getByTestId('case-file').setInputFiles(path);
  await page.waitForURL('**/read');
  await expect(page.getByRole('article').first()).toBeVisible();
  await page.getByLabel('Search this case').fill('where the money');
  await expect(people(page)).toHaveCount(1);
});

test('the summary counts the case, with a table beside each chart', async ({ demo: page }) => {
  await page.getByRole('link', { name: 'Summary', exact: true }).click();
  const summary = page.getByRole('main', { name: 'Summary of the case' });
  await expect(summary.getByRole('img', { name: /^Messages per month/ })).toBeVisible();
  const whom = summary.getByRole('table').filter({ hasText: 'Correspondent' });
  await expect(whom.getByRole('row').filter({ hasText: '+44 7700 900184' })).toContainText('309');
  // Hours of the day come to the lines whose time is known.
  const hours = await summary
    .getByRole('table')
    .filter({ hasText: /^0/ })
    .first()
    .getByRole('cell')
    .allTextContents();
  expect(hours.length).toBe(24);
  await expect(summary).toContainText('Brought back from');
});
