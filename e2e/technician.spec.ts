import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from './prepared';
import { closeDialog, openDemo, openRead } from './helpers';

const TURNING_POINT = 'Forget Saturday. Pay me half now in cash';

test('from the demo to a record: pass, turning point, choice, production', async ({
  page,
  context
}) => {
  await openDemo(page);
  await openRead(page, /Halvard Nystuen/);
  await page
    .getByRole('group', { name: 'States shown' })
    .getByRole('button', { name: /^live/ })
    .click();
  const line = page.getByRole('article').filter({ hasText: TURNING_POINT });
  await expect(line).toBeVisible();
  await line.getByText(TURNING_POINT).click();
  const margin = page.getByRole('complementary', { name: 'Details' });
  await expect(margin).toContainText('recovered');
  await expect(margin).toContainText('phone-telephony.db, page');
  await line.getByRole('button', { name: /Select line/ }).click();
  await expect(
    page.getByRole('link', { name: '1 record selected, to the exhibit list' })
  ).toBeVisible();

  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  // The page is drawn by the engine that prints it.
  await expect(page.getByLabel(/Page \d+ of the record/)).toHaveAttribute('data-page', /\d+/);
  await page.getByLabel('Settings for').selectOption({ label: 'For a court' });
  await page.getByLabel('Web pages').check();
  const arriving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Produce records' }).click();
  const folder = mkdtempSync(join(tmpdir(), 'produced-'));
  const archive = join(folder, 'records.zip');
  await (await arriving).saveAs(archive);
  execFileSync('python3', ['-m', 'zipfile', '-e', archive, folder]);
  const [name] = readdirSync(folder).filter((entry) => !entry.endsWith('.zip'));
  const bag = join(folder, name!);
  execFileSync('sha256sum', ['--check', '--quiet', 'manifest-sha256.txt'], { cwd: bag });
  expect(readFileSync(join(bag, 'data/messages.csv'), 'utf8')).toContain(TURNING_POINT);
  const printed = execFileSync('pdftotext', ['-raw', join(bag, 'data/record.pdf'), '-'], {
    encoding: 'utf8'
  });
  expect(printed.replace(/\s+/g, ' ')).toContain(TURNING_POINT);
  expect(printed).toContain('EX-000001');

  const record = await context.newPage();
  await record.goto(`file://${join(bag, 'data/pages/index.html')}`);
  await record.getByRole('link', { name: 'Halvard Nystuen' }).click();
  await expect(record.getByText(TURNING_POINT)).toBeVisible();
  await expect(record.getByText('08:55:12')).toBeVisible();
});

test('search finds names, numbers and words', async ({ demo: page }) => {
  await openRead(page, /Halvard/);
  const people = page.getByRole('navigation', { name: 'Correspondents' }).getByRole('button');
  await page.keyboard.press('/');
  await page.keyboard.type('sunniva');
  await expect(people.filter({ hasText: 'Sunniva Lie' })).toHaveCount(1);
  await expect(people.filter({ hasText: 'Layla' })).toHaveCount(0);
  await expect(people.filter({ hasText: '72022' })).toHaveCount(0);
  await page.getByLabel('Search this case').fill('07700 900527');
  await expect(people).toHaveCount(1);
  await page.getByLabel('Search this case').fill('red paint tin');
  await expect(people).toHaveCount(1);
  // The hit stands among the lines around it, and has the focus.
  const strip = page.getByRole('region', { name: 'What the view is narrowed to' });
  await expect(strip).toContainText('1 hit of “red paint tin” with 1 correspondent');
  await expect(strip).toContainText('hit 1 of 1 with Halvard Nystuen');
  await expect(page.locator('mark')).toHaveText('red paint tin');
  await expect(page.getByRole('article').filter({ hasText: 'Forget Saturday' })).toBeVisible();
  await strip.getByText('only the hits').click();
  await expect(page.getByRole('article')).toHaveCount(1);
  // All hits in one list: moved through and opened by keys.
  await page.getByLabel('Search this case').fill('deposit');
  await strip.getByText('as a list').click();
  const list = page.getByRole('listbox', { name: 'All hits' });
  await expect(list.getByText('Halvard Nystuen', { exact: true }).first()).toBeVisible();
  const told = /([\d,]+) hits? of/.exec(await strip.innerText())![1];
  await expect(list.getByRole('option')).toHaveCount(Number(told));
  await list.focus();
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  const wanted = list.getByRole('option', { selected: true });
  await expect(wanted.locator('mark').first()).toHaveText(/deposit/i);
  const number = (await wanted.locator('span').first().innerText()).trim();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article', { name: new RegExp(`^Line ${number},`) })).toBeVisible();
  await page.getByLabel('Search this case').fill('no such words anywhere');
  await expect(page.getByText('Nothing matches what the view is narrowed to.')).toBeVisible();
  await page.getByRole('button', { name: 'Show everything' }).click();
  await expect(people.first()).toBeVisible();
});

test('a number gets a name by hand, and is found by both', async ({ demo: page }) => {
  await openRead(page, /900770/);
  await page.getByRole('button', { name: /Give \+44 7700 900770 a name/ }).click();
  await page.getByLabel('Name for no name').fill('Halvard, second phone');
  await page.keyboard.press('Enter');
  const people = page.getByRole('navigation', { name: 'Correspondents' });
  await expect(people.getByRole('button', { name: /Halvard, second phone/ })).toContainText(
    '+44 7700 900770'
  );
  await page.reload();
  await expect(people.getByRole('button', { name: /Halvard, second phone/ })).toBeVisible();
});

test('by keyboard alone: to the line, choose, produce', async ({ demo: page }) => {
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await page.waitForURL('**/read');
  await expect(page.getByRole('article').first()).toBeVisible();
  await page.keyboard.press(']');
  await page.keyboard.press('1');
  await page.keyboard.press('j');
  await page.keyboard.press('k');
  await expect(page.locator('article:focus')).toHaveCount(1);
  await page.keyboard.press('x');
  await page.keyboard.press('j');
  await page.keyboard.press('Shift+X');
  await expect(
    page.getByRole('link', { name: '2 records selected, to the exhibit list' })
  ).toBeVisible();
  await page.keyboard.press('m');
  await expect(page.getByRole('complementary', { name: 'Details' })).toHaveCount(0);
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Fewer bytes' })).toBeVisible();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('select the message');
  await closeDialog(page);
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await page.waitForURL('**/produce');
  await expect(page.getByRole('region', { name: 'Exhibit list' })).toContainText('2 of');
});

test('a reload comes back to the same line and choices', async ({ demo: page }) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('receipt');
  const line = page.getByRole('article').filter({ hasText: 'Without a receipt?' });
  await line.getByRole('button', { name: /Select line/ }).click();
  await line.getByText('Without a receipt?').click();
  await expect(page.getByRole('complementary', { name: 'Details' })).toContainText('08:57:40');
  await page.getByLabel('Search this case').fill('');
  await page.reload();
  const again = page.getByRole('article').filter({ hasText: 'Without a receipt?' });
  await expect(again).toBeVisible();
  await expect(again).toHaveAccessibleName(/selected/);
  await expect(page.getByRole('complementary', { name: 'Details' })).toContainText('08:57:40');
});

test('nothing leaves for another origin', async ({ demo: page }) => {
  const foreign: string[] = [];
  page.on('request', (request) => {
    const { protocol, hostname } = new URL(request.url());
    if (/^https?:$/.test(protocol) && hostname !== '127.0.0.1') foreign.push(request.url());
  });
  await openRead(page, /Halvard/);
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  expect(foreign).toEqual([]);
});

test('words that are redacted are in no file of the archive, and the archive can be checked here', async ({
  demo: page
}) => {
  await openRead(page, /Halvard/);
  await page
    .getByRole('group', { name: 'States shown' })
    .getByRole('button', { name: /^live/ })
    .click();
  const line = page.getByRole('article').filter({ hasText: TURNING_POINT });
  await line.getByText(TURNING_POINT).click();
  await line.getByRole('button', { name: /Select line/ }).click();
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  await page.getByLabel('Settings for').selectOption({ label: 'For a lawyer' });
  await page.getByLabel('Words').fill('Pay me half now in cash');
  await page.getByLabel('Reason code').fill('PRIV');
  await page.getByRole('button', { name: 'Redact' }).click();
  await expect(page.getByText('“Pay me half now in cash” everywhere')).toBeVisible();
  const arriving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Produce records' }).click();
  const folder = mkdtempSync(join(tmpdir(), 'redacted-'));
  const archive = join(folder, 'records.zip');
  await (await arriving).saveAs(archive);
  execFileSync('python3', ['-m', 'zipfile', '-e', archive, folder]);
  const found = execFileSync('grep', ['-rl', '--exclude=*.zip', 'PRIV', folder], {
    encoding: 'utf8'
  });
  expect(found).toContain('production.json');
  const [name] = readdirSync(folder).filter((entry) => !entry.endsWith('.zip'));
  const printed = execFileSync('pdftotext', ['-raw', join(folder, name!, 'data/record.pdf'), '-'], {
    encoding: 'utf8'
  });
  expect(printed).toContain('PRIV');
  expect(printed.replace(/\s+/g, ' ')).not.toContain('Pay me half');
  expect(() => execFileSync('grep', ['-rlq', '--exclude=*.zip', 'Pay me half', folder])).toThrow();
  await page.getByTestId('package').setInputFiles(archive);
  await expect(page.getByText('Nothing was changed.')).toBeVisible();
  await page.reload();
  await expect(page.getByText('“Pay me half now in cash” everywhere')).toBeVisible();
});
