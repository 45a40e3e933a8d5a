import { expect, test } from './prepared';
import AxeBuilder from '@axe-core/playwright';
import { snapshot } from '../core/tests/databases';
import { TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { newCase, openRead } from './helpers';

test('from a recovered line to its bytes, its fields and a citation', async ({ demo: page }) => {
  const context = page.context();
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
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

test('the page map is walked by keyboard, and says what each page is', async ({ demo: page }) => {
  await page.getByRole('link', { name: 'phone-telephony.db', exact: true }).click();
  const map = page.getByRole('slider', { name: 'Page of the file' });
  await map.focus();
  const first = await map.getAttribute('aria-valuenow');
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => map.getAttribute('aria-valuenow')).not.toBe(first);
  const before = Number(await map.getAttribute('aria-valuenow'));
  await page.keyboard.press('ArrowRight');
  await expect(map).toHaveAttribute('aria-valuenow', String(before + 1));
  await expect(map).toHaveAttribute('aria-valuetext', /^Page \d+, (table|index|free|overflow)/);
  await expect(page.getByRole('region', { name: 'The file' })).toContainText('free blocks');
});

test('gaps are listed, and lead to the line beside them', async ({ demo: page }) => {
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  const facets = page.getByRole('tablist', { name: 'Facets' });
  await facets.getByRole('tab', { name: /^Gaps/ }).click();
  await expect(page.getByRole('table', { name: 'Gaps' })).toContainText('row numbers');
  await page
    .getByRole('button', { name: /Go to the message/ })
    .first()
    .click();
  await expect(page.getByText(/\d+ missing/).first()).toBeVisible();
});

/** Messages of which one is edited and one deleted by later commits of the log. */
const LOGGED = `PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${TELEPHONY_SCHEMA}
INSERT INTO sms(_id, thread_id, address, date, date_sent, read, type, body) VALUES
 (1,1,'+447700900101',1767200000123,1767200000000,1,1,'The slip is free on Monday'),
 (2,1,'+447700900101',1767200900456,1767200900000,1,2,'Then I bring her over'),
 (3,1,'+447700900101',1767203000789,1767203000000,1,1,'Bring cash, nobody needs to know'),
 (4,1,'+447700900101',1767204000111,1767204000000,1,2,'Agreed');
PRAGMA wal_checkpoint(TRUNCATE);
PRAGMA secure_delete=ON;
INSERT INTO sms(_id, thread_id, address, date, date_sent, read, type, body) VALUES(5,1,'+447700900101',1767300000222,1767300000000,1,1,'Is it done?');
DELETE FROM sms WHERE _id = 3;
INSERT INTO sms(_id, thread_id, address, date, date_sent, read, type, body) VALUES(6,1,'+447700900101',1767400000333,1767400000000,1,2,'It is done');
SNAPSHOT
`;

test('the life of a deleted row in the log: which commit took it, and between which moments', async ({
  page
}) => {
  const snap = snapshot(LOGGED, 'SELECT count(*) FROM sms');
  await newCase(page, 'Log');
  await page.getByTestId('files').setInputFiles([
    { name: 'deck.db', mimeType: 'application/octet-stream', buffer: Buffer.from(snap.main) },
    { name: 'deck.db-wal', mimeType: 'application/octet-stream', buffer: Buffer.from(snap.wal!) }
  ]);
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  const card = page.getByRole('article', { name: /Source deck\.db/ });
  await expect(card).toContainText('1 recovered');
  await openRead(page, /900101/);
  await page.getByRole('article').getByText('Bring cash').click();
  await page.getByRole('link', { name: 'Look inside' }).click();
  const record = page.getByRole('region', { name: 'Record' });
  await expect(record).toContainText('in the file itself');
  await expect(record).toContainText('deleted by commit 2 of 3 in the log, between 2026-01-01');
});
