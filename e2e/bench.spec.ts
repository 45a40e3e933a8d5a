import { type Locator, type Page } from '@playwright/test';
import { expect, test } from './prepared';
import { readFileSync } from 'node:fs';
import { withStore } from '../bench/writers/store';
import { newCase, openRead } from './helpers';

test.beforeEach(async ({ request }) => {
  await request.delete('/bench');
});

async function openBench(page: Page, device: RegExp): Promise<void> {
  await newCase(page, 'On the bench');
  await page.getByRole('link', { name: 'Copy on the bench' }).click();
  await choose(page, device);
}

async function choose(page: Page, device: RegExp): Promise<void> {
  const list = page.getByRole('navigation', { name: 'What is on the bench' });
  await list.getByRole('button', { name: device }).click();
  await expect(page.getByRole('heading', { level: 1, name: device })).toBeVisible();
}

function button(page: Page, name: string | RegExp): Locator {
  return page.getByRole('button', { name });
}

async function answer(page: Page, passcode: string): Promise<void> {
  await button(page, 'Ask the phone').first().click();
  await page.getByLabel('Passcode of the phone').fill(passcode);
  await button(page, 'Allow, with passcode').click();
  await expect(page.getByRole('region', { name: 'The phone asks' })).toHaveCount(0);
}

/** Everything that the newest handset needs for its files. */
async function prepare(page: Page): Promise<void> {
  await button(page, 'Take another cable').click();
  await button(page, 'The client switches it on').click();
  await answer(page, '250817');
  await answer(page, '250817');
  await button(page, 'Give it').click();
  await expect(button(page, 'Begin the copy')).toBeEnabled();
}

async function takeUp(page: Page): Promise<void> {
  await button(page, 'Resume the copy').click();
  await expect(button(page, 'Examine it')).toBeVisible();
}

async function begin(page: Page): Promise<void> {
  await button(page, 'Begin the copy').click();
}

test('a handset is made ready, copied, examined, and its copy saved', async ({ page }) => {
  await openBench(page, /Eirin’s handset/);
  await expect(button(page, 'Begin the copy')).toBeDisabled();
  await expect(page.getByRole('radio', { name: 'Bit for bit' })).toBeDisabled();
  await button(page, 'Take another cable').click();
  await button(page, 'The client switches it on').click();
  await button(page, 'Ask the phone').first().click();
  await button(page, 'Refuse').click();
  await expect(page.getByText('refused on the phone').first()).toBeVisible();
  await button(page, 'Ask the phone').first().click();
  await page.getByLabel('Passcode of the phone').fill('000000');
  await button(page, 'Allow, with passcode').click();
  await expect(page.getByRole('alert')).toHaveText('The passcode is wrong; 4 tries are left.');
  await page.getByLabel('Passcode of the phone').fill('250817');
  await button(page, 'Allow, with passcode').click();
  await answer(page, '250817');
  await button(page, 'Give it').click();
  await begin(page);
  await expect(page.getByRole('region', { name: 'Copy that is being taken' })).toBeVisible();
  await expect(button(page, 'Examine it')).toBeVisible();
  const download = page.waitForEvent('download');
  await button(page, 'Save it to disk').click();
  const saved = readFileSync(await (await download).path());
  for (const name of ['file-system.tar', 'SHA256SUMS', 'copy.json', 'copying-log.jsonl'])
    expect(saved.includes(name)).toBe(true);
  await button(page, 'Examine it').click();
  await page.getByRole('link', { name: /To the sources/ }).click();
  const card = page.getByRole('article', { name: /Source Eirin’s handset, file system/ });
  await expect(card).toContainText(/recovered/);
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await expect(page.getByText('copy finished').first()).toBeVisible();
});

test('a copy is paused, stopped, cut off by a reload, and taken up again', async ({ page }) => {
  await openBench(page, /Eirin’s handset/);
  await prepare(page);
  await begin(page);
  const strip = page.getByRole('region', { name: 'Copy that is being taken' });
  await strip.getByRole('button', { name: 'Pause' }).click();
  await expect(strip).toContainText('paused');
  await strip.getByRole('button', { name: 'Go on' }).click();
  await expect(strip).toContainText(/[1-9]\d? %/);
  await strip.getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByRole('alert')).toContainText(/was stopped\. .* are verified and kept/);
  await button(page, 'Resume the copy').click();
  await expect(strip).toContainText(/[4-9]\d %/);
  await page.reload();
  await expect(page.getByText('It was cut off; what was copied is kept.')).toBeVisible();
  await takeUp(page);
  await expect(page.getByText('verified; in this case')).toBeVisible();
});

const FAULTS: [fault: string, told: RegExp, mend: (page: Page) => Promise<void>][] = [
  ['unplugged', /was unplugged/, (page) => button(page, 'Plug it in').click()],
  [
    'battery-empty',
    /battery ran out/,
    async (page) => {
      await button(page, 'Let it charge').click();
      await page.getByPlaceholder('Passcode').fill('250817');
      await button(page, 'Unlock it with the passcode').click();
    }
  ],
  ['permission-withdrawn', /no longer lets this computer in/, (page) => answer(page, '250817')],
  ['no-room', /no room left/, async () => undefined],
  ['read-error', /could not be read/, async () => undefined]
];

test('each fault in the middle of a copy is told, mended, and the copy goes on', async ({
  page
}) => {
  await openBench(page, /Eirin’s handset/);
  await prepare(page);
  const whole = page.getByText('verified; in this case');
  for (const [i, [fault, told, mend]] of FAULTS.entries()) {
    if (i > 0) await button(page, 'Give it').click();
    await page.getByLabel(/For practice/).selectOption(fault);
    await begin(page);
    await expect(page.getByRole('alert')).toContainText(told);
    await expect(whole).toHaveCount(i);
    await mend(page);
    await button(page, 'Resume the copy').click();
    await expect(whole).toHaveCount(i + 1);
  }
  await button(page, 'Give it').click();
  let parts = 0;
  await page.route('**/bench/tern-4/part?*', (route) =>
    ++parts > 3 ? route.abort() : route.continue()
  );
  await begin(page);
  await expect(page.getByRole('alert')).toContainText('The bench does not answer');
  await page.unroute('**/bench/tern-4/part?*');
  await button(page, 'Resume the copy').click();
  await expect(whole).toHaveCount(FAULTS.length + 1);
});

test('a card is read record by record; wrong PINs block it', async ({ page }) => {
  await openBench(page, /Card in the reader/);
  await page.getByPlaceholder('PIN').fill('1111');
  await button(page, 'Give the PIN').click();
  await expect(page.getByRole('alert')).toHaveText('The PIN is wrong; 2 tries are left.');
  await page.getByPlaceholder('PIN').fill('4821');
  await button(page, 'Give the PIN').click();
  for (const [fault, told] of [
    ['read-error', /could not give/],
    ['card-removed', /was taken out/]
  ] as const) {
    await page.getByLabel(/For practice/).selectOption(fault);
    await begin(page);
    await expect(page.getByRole('alert')).toContainText(told);
  }
  await button(page, 'Put it in').click();
  await page.getByPlaceholder('PIN').fill('4821');
  await button(page, 'Give the PIN').click();
  await begin(page);
  await expect(button(page, 'Examine it')).toBeVisible();
  await page.getByText(/Commands sent to the card/).click();
  await expect(page.getByRole('list', { name: 'Commands and answers' })).toContainText(
    'record 1 of 3F00/7F10/6F3C'
  );
  await button(page, 'Examine it').click();
  await page.getByRole('link', { name: /To the sources/ }).click();
  await expect(page.getByRole('article', { name: /Source Card in the reader/ })).toContainText(
    /2 recovered|recovered 2|2\s*recovered/
  );
});

test('a vault: wrong password, code, one snapshot, its limit and its faults', async ({ page }) => {
  await openBench(page, /eirin@ferry/);
  await page.getByPlaceholder('Password').fill('no');
  await button(page, 'Sign in').click();
  await expect(page.getByRole('alert')).toContainText('3 tries are left before the account');
  await page.getByPlaceholder('Password').fill('tin on the slip');
  await button(page, 'Sign in').click();
  await page.getByLabel('Code that the client reads out').fill('318 204');
  await button(page, 'Give the code').click();
  const snapshots = page.getByRole('region', { name: 'Snapshots' });
  await expect(snapshots).toContainText('2 older ones are gone');
  await snapshots.getByRole('checkbox', { name: '29 Mar 2026' }).check();
  await page.getByLabel(/For practice/).selectOption('connection-lost');
  await begin(page);
  await expect(page.getByRole('alert')).toContainText('connection to the vault was lost');
  await page.getByLabel(/For practice/).selectOption('limit-reached');
  await button(page, 'Resume the copy').click();
  await expect(page.getByRole('alert')).toContainText('gives this account nothing more');
  await takeUp(page);
});

test('recovered messages are put back, read back, and taken out again', async ({
  page,
  request
}) => {
  await openBench(page, /Eirin’s handset/);
  const lost = await request.get('/demo/phone-telephony.db');
  expect(lost.ok()).toBe(true);
  await page.getByTestId('rebuilt').setInputFiles({
    name: 'same.db',
    mimeType: 'application/octet-stream',
    buffer: await lost.body()
  });
  await expect(page.getByText(/Nothing would be added/)).toBeVisible();
  await page.getByTestId('rebuilt').setInputFiles({
    name: 'noise.db',
    mimeType: 'application/octet-stream',
    buffer: Buffer.alloc(5000, 9)
  });
  await expect(page.getByRole('alert')).toContainText('cannot be read as a store');
  const more = withStore(await lost.body(), (db) =>
    db.run(
      "INSERT INTO sms(thread_id, address, date, type, body) VALUES(1, '+447700900184', 1, 1, 'One more.')"
    )
  );
  await page.getByTestId('rebuilt').setInputFiles({
    name: 'one-more.db',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(more)
  });
  await expect(page.getByText('1 message would be added')).toBeVisible();
  await button(page, 'Put 1 message back').click();
  await expect(page.getByText(/1 message added\. Read back and compared/)).toBeVisible();
  await button(page, 'Undo (1 message)').click();
  await expect(button(page, 'Undo (1 message)')).toHaveCount(0);
});

test('chosen lines go back into a phone, and its raw storage gives deleted files', async ({
  page
}) => {
  await openBench(page, /Old handset from the drawer/);
  await button(page, 'Let it charge').click();
  await button(page, 'Wake it').click();
  for (const _ of ['let in', 'authorised']) {
    await button(page, 'Ask the phone').first().click();
    await button(page, 'Allow').click();
    await expect(page.getByRole('region', { name: 'The phone asks' })).toHaveCount(0);
  }
  await button(page, 'Give it').click();
  await begin(page);
  await button(page, 'Examine it').click();
  const running = page.getByRole('region', { name: 'Examination in progress' });
  await expect(button(page, 'Examine it')).toHaveCount(0);
  await expect(running).toHaveCount(0);
  await openRead(page, /Halvard|184/);
  await page
    .getByRole('group', { name: 'States shown' })
    .getByRole('button', { name: /^live/ })
    .click();
  const lines = page.getByRole('article');
  await lines
    .first()
    .getByRole('button', { name: /Select line/ })
    .click();
  await page.goto(page.url().replace(/read.*$/, 'bench'));
  await choose(page, /Old handset from the drawer/);
  await button(page, 'Look at the selected messages').click();
  await expect(page.getByText('1 message would be added')).toBeVisible();
  await button(page, 'Put 1 message back').click();
  await expect(page.getByText(/1 message added\. Read back and compared/)).toBeVisible();
  await button(page, 'Look at the selected messages').click();
  await expect(page.getByText(/Nothing would be added/)).toBeVisible();

  await button(page, 'Give it').click();
  await page.getByRole('radio', { name: 'Bit for bit' }).check();
  await begin(page);
  await button(page, 'Examine it').click();
  await expect(button(page, 'Examine it')).toHaveCount(0);
  await expect(running).toHaveCount(0);
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await page
    .getByRole('tablist', { name: 'Facets' })
    .getByRole('tab', { name: /^Media/ })
    .click();
  const picture = page
    .getByRole('button', { name: /^Look at \d+\.jpg$/ })
    .first()
    .locator('img');
  await expect(picture).toBeVisible();
  await expect
    .poll(() => picture.evaluate((img: HTMLImageElement) => img.naturalWidth))
    .toBeGreaterThan(0);
});

/** Moves the focus on by the Tab key until something of that name has it. */
async function tabTo(page: Page, name: RegExp): Promise<void> {
  for (let presses = 0; presses < 150; presses++) {
    await page.keyboard.press('Tab');
    const told = await page.evaluate(() => {
      const at = document.activeElement as HTMLInputElement | null;
      const label = at?.getAttribute('aria-label') ?? at?.labels?.[0]?.textContent;
      const own = /^(A|BUTTON)$/.test(at?.tagName ?? '') ? at?.textContent : null;
      return (label ?? own ?? '').trim();
    });
    if (name.test(told)) return;
  }
  throw new Error(`Tab does not lead to ${name.source}.`);
}

test('from the intake to the first message got back, by keyboard alone', async ({ demo: page }) => {
  await page.keyboard.press('g');
  await page.keyboard.press('i');
  await page.waitForURL('**/intake');
  const first = page.getByRole('main', { name: 'Route plan' }).getByRole('listitem').first();
  await expect(first).toContainText('eirin@ferry.example');
  await expect(first).toContainText('contains');
  await tabTo(page, /^Take it on the bench/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1, name: 'eirin@ferry.example' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'route 1 of the plan' })).toBeVisible();
  await tabTo(page, /Password/);
  await page.keyboard.type('tin on the slip');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Code that the client reads out')).toBeVisible();
  await tabTo(page, /Code that the client/);
  await page.keyboard.type('318204');
  await page.keyboard.press('Enter');
  await expect(button(page, 'Begin the copy')).toBeEnabled();
  await tabTo(page, /^Begin the copy/);
  await page.keyboard.press('Enter');
  await expect(button(page, 'Examine it')).toBeVisible();
  await tabTo(page, /^Examine it/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Examination in progress' })).toHaveCount(0);
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await page.waitForURL('**/read');
  await page.keyboard.press('/');
  await page.keyboard.type('Without a receipt');
  await expect(page.getByRole('article').first()).toBeVisible();
  await page.keyboard.press('Tab');
  await page.keyboard.press('g');
  await page.keyboard.press('i');
  await expect(first).toContainText(/Actually found: [\d,]+ messages live/);
});
