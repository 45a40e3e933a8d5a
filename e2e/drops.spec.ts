import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { makeDatabase } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { failOnErrors, newCase } from './helpers';

test.beforeEach(({ page }) => failOnErrors(page));

function store(seed: number): Buffer {
  return Buffer.from(
    makeDatabase((db) => {
      db.run(TELEPHONY_SCHEMA);
      insertMessages(db, messages(40, seeded(seed)));
    })
  );
}

/** Files of a folder of their own on the disk; returns the folder. */
function onDisk(files: Record<string, Buffer>): string {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-drop-'));
  for (const [path, bytes] of Object.entries(files)) {
    mkdirSync(join(folder, path, '..'), { recursive: true });
    writeFileSync(join(folder, path), bytes);
  }
  return folder;
}

/** Drags files and folders of the disk over the page and lets them go, as a hand does. */
async function drop(page: Page, paths: string[]): Promise<void> {
  const session = await page.context().newCDPSession(page);
  const data = { items: [], files: paths, dragOperationsMask: 1 };
  const send = (type: 'dragEnter' | 'dragOver' | 'drop'): Promise<unknown> =>
    session.send('Input.dispatchDragEvent', { type, x: 500, y: 420, data });
  // A hand hovers until the page says that it takes what is dragged.
  await send('dragEnter');
  await expect(async () => {
    await send('dragOver');
    await expect(page.locator('.wrap.over, .invites.over')).toHaveCount(1, { timeout: 500 });
  }).toPass();
  await send('dragOver');
  await send('drop');
  await session.detach();
}

const card = (page: Page, name: string): ReturnType<Page['getByRole']> =>
  page.getByRole('article', { name: `Source ${name}`, exact: true });

test('a file that is dropped on the casebook begins a case', async ({ page }) => {
  const folder = onDisk({ 'phone.db': store(1) });
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Drop evidence here to begin' })).toBeVisible();
  await drop(page, [join(folder, 'phone.db')]);
  await page.waitForURL('**/sources');
  await expect(card(page, 'phone.db')).toContainText('about 40 messages');
  await page.getByRole('button', { name: 'Examine phone.db' }).click();
  await expect(card(page, 'phone.db')).toContainText('40 live');
});

test('a folder that is dropped is one source, on the casebook and on the sources', async ({
  page
}) => {
  const folder = onDisk({ 'one/db/a.db': store(2), 'one/db/b.txt': Buffer.from('no messages') });
  const other = onDisk({ 'two/c.db': store(3) });
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Casebook' })).toBeVisible();
  await drop(page, [join(folder, 'one')]);
  await page.waitForURL('**/sources');
  await expect(card(page, 'one')).toContainText('2 files');
  await expect(card(page, 'one')).toContainText('about 40 messages');
  await drop(page, [join(other, 'two')]);
  await expect(card(page, 'two')).toContainText('about 40 messages');
  await page.getByRole('button', { name: 'Examine 2 sources' }).click();
  await expect(card(page, 'one')).toContainText('40 live');
  await expect(card(page, 'two')).toContainText('40 live');
});

test('several files and folders at once; a log goes with its database; copies where that is asked for', async ({
  page
}) => {
  const folder = onDisk({
    'a.db': store(4),
    'a.db-wal': Buffer.alloc(0),
    'b.db': store(5),
    'input/c.db': store(6),
    'more/input/d.db': store(7)
  });
  await newCase(page, 'Several');
  const at = (path: string): string => join(folder, path);
  await drop(page, [at('a.db'), at('a.db-wal'), at('b.db'), at('input')]);
  await expect(card(page, 'a.db')).toContainText('2 files');
  await expect(card(page, 'b.db')).toContainText('about 40 messages');
  await expect(card(page, 'input')).toContainText('about 40 messages');
  // The switch asks for a copy in the browser.
  await page.locator('[data-part="control"]').first().click();
  await drop(page, [at('more/input')]);
  // Two folders of one name are told apart.
  await expect(card(page, 'input (2)')).toContainText('about 40 messages');
  await expect(card(page, 'input (2)')).not.toContainText('read where it lies');
  await expect(card(page, 'input')).toContainText('read where it lies');
});
