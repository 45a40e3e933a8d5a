import { expect, test, type Page } from '@playwright/test';
import { makeDatabase } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { failOnErrors, newCase, openRead } from './helpers';

function store(count: number): Buffer {
  return Buffer.from(
    makeDatabase((db) => {
      db.run(TELEPHONY_SCHEMA);
      insertMessages(db, messages(count, seeded(9)));
      db.run('DELETE FROM sms WHERE _id % 5 = 0');
    })
  );
}

/** The pickers of the browser cannot be driven: they give files of the page's own disk instead. */
async function pickFromDisk(page: Page, files: Record<string, Buffer>): Promise<void> {
  const contents = Object.entries(files).map(([path, bytes]) => ({
    path,
    base64: bytes.toString('base64')
  }));
  await page.evaluate(async (contents) => {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle('Evidence', { create: true });
    for (const { path, base64 } of contents) {
      const steps = path.split('/');
      const name = steps.pop()!;
      let at = folder;
      for (const step of steps) at = await at.getDirectoryHandle(step, { create: true });
      const out = await (await at.getFileHandle(name, { create: true })).createWritable();
      await out.write(Uint8Array.from(atob(base64), (char) => char.charCodeAt(0)));
      await out.close();
    }
    const pickers = window as unknown as Record<string, () => Promise<unknown>>;
    pickers.showDirectoryPicker = () => Promise.resolve(folder);
    pickers.showOpenFilePicker = async () => {
      const handles: unknown[] = [];
      for await (const entry of folder.values()) if (entry.kind === 'file') handles.push(entry);
      return handles;
    };
  }, contents);
}

/** Files that the browser's storage holds of evidence. */
function copiedFiles(page: Page): Promise<number> {
  return page.evaluate(
    () =>
      new Promise<number>((resolve, reject) => {
        const opening = indexedDB.open('ombudsman');
        opening.onerror = () => reject(new Error('not opened'));
        opening.onsuccess = () => {
          const count = opening.result.transaction('blobs').objectStore('blobs').count();
          count.onsuccess = () => resolve(count.result);
        };
      })
  );
}

test('evidence is read where it lies, also after a reload, and a change of it is told', async ({
  page
}) => {
  failOnErrors(page);
  await newCase(page, 'In place');
  await expect(
    page.getByText('What is added is read where it lies, and not copied.')
  ).toBeVisible();
  await pickFromDisk(page, { 'a.db': store(400) });
  await page.getByRole('button', { name: 'Add files' }).click();
  const card = page.getByRole('article', { name: 'Source a.db' });
  await expect(card).toContainText('read where it lies');
  expect(await copiedFiles(page)).toBe(0);
  await page.getByRole('button', { name: 'Examine a.db' }).click();
  await expect(card).toContainText('320 live');
  await expect(card).toContainText('✓ unchanged');
  await page.reload();
  await expect(card).toContainText('320 live');
  await openRead(page, /\d/);
  await page.getByRole('article').first().click();
  await expect(page.getByRole('complementary', { name: 'Details' })).toContainText('a.db');

  await page.getByRole('link', { name: 'Sources', exact: true }).click();
  await pickFromDisk(page, { 'a.db': store(401) });
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  await expect(card).toContainText('✗ changed since it was added');
});

test('a folder is read where it lies; what was taken away is said in one sentence', async ({
  page
}) => {
  await newCase(page, 'Folder in place');
  await pickFromDisk(page, { 'chats/a.db': store(60), 'notes.txt': Buffer.from('tide tables') });
  await page.getByRole('button', { name: 'Add a folder' }).click();
  const card = page.getByRole('article', { name: 'Source Evidence' });
  await expect(card).toContainText('2 files');
  await page.getByRole('button', { name: 'Examine Evidence' }).click();
  await expect(card).toContainText('48 live');
  await page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    await root.removeEntry('Evidence', { recursive: true });
  });
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('Evidence is not where it was');
  await expect(card).toContainText('48 live');
});

test('a copy is kept in this browser where that is asked for', async ({ page }) => {
  await newCase(page, 'Copied');
  await page.getByText('Copy what is added into this browser').click();
  await expect(page.getByText(/is copied into this browser, which has room for/)).toBeVisible();
  await page
    .getByTestId('files')
    .setInputFiles([{ name: 'a.db', mimeType: '', buffer: store(60) }]);
  await expect(page.getByRole('article', { name: 'Source a.db' })).toContainText(
    'not examined yet'
  );
  expect(await copiedFiles(page)).toBe(1);
});

test('an empty folder is answered with one sentence', async ({ page }) => {
  await newCase(page, 'Empty');
  await pickFromDisk(page, {});
  await page.getByRole('button', { name: 'Add a folder' }).click();
  await expect(page.getByRole('alert')).toContainText('The folder Evidence is empty.');
  await expect(page.getByRole('article')).toHaveCount(0);
});
