import { type Page } from '@playwright/test';
import { expect, test } from './prepared';
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { writeBackup } from '../bench/writers/backup';
import { CHAT_SCHEMAS, talk } from '../core/tests/chat-schemas';
import { BACKUP_PASSWORD, MORE_SOURCES } from '../demo/more';
import { simCard } from '../demo/more/sim';
import { newCase } from './helpers';

/** Writes a source's files below a new folder and gives that folder. */
function onDisk(name: string, files: Record<string, Uint8Array>): string {
  const folder = join(mkdtempSync(join(tmpdir(), 'kinds-')), name);
  for (const [path, bytes] of Object.entries(files)) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), bytes);
  }
  return folder;
}

function facet(page: Page, name: RegExp): ReturnType<Page['locator']> {
  return page.getByRole('tablist', { name: 'Facets' }).getByRole('tab', { name });
}

/** Examines a source once it is the one that is looked at. */
async function passOver(page: Page, source: RegExp | string): Promise<void> {
  const setup = page.getByRole('complementary', { name: 'Set up an examination' });
  await expect(setup.getByText(/^on /)).toContainText(source);
  await setup.getByRole('button', { name: 'Examine', exact: true }).click();
}

test('an encrypted backup asks for its password in place, and the facets show what it holds', async ({
  demo: page
}) => {
  const card = page.getByRole('article', { name: 'Source Backup of the new phone' });
  await expect(card).toContainText('Locked.');
  await expect(card).toContainText('Eirin Vold’s phone');
  await card.getByLabel(/^Password for/).fill('summer tide');
  await card.getByRole('button', { name: 'Unlock' }).click();
  await expect(card).toContainText('The password does not open it.');
  await card.getByLabel(/^Password for/).fill(BACKUP_PASSWORD);
  await page.keyboard.press('Enter');
  await expect(card).toContainText('2 recently deleted');
  await expect(card).toContainText('HomeDomain/Library/SMS/sms.db');

  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await facet(page, /^Calls/).click();
  await expect(page.getByRole('table', { name: 'Calls' })).toContainText('Bjarne Tveit');
  await facet(page, /^Contacts/).click();
  await page.getByLabel('Search this case').fill('yev');
  await expect(page.getByRole('table', { name: 'Contacts' })).toContainText('no contact', {
    ignoreCase: true
  });
  await page.getByLabel('Search this case').fill('');
  await facet(page, /^Media/).click();
  await expect(
    page.getByRole('button', { name: 'Look at quay-after-storm.jpg' }).locator('img')
  ).toBeVisible();
  await expect(page.getByText('fog.heic')).toBeVisible();
  await facet(page, /^Files/).click();
  await page.getByLabel('Search this case').fill('slip-1');
  const arriving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save slip-1.png' }).click();
  expect((await arriving).suggestedFilename()).toBe('slip-1.png');
});

test('a store of unknown make is read, corrected at the profile desk, and known the next time', async ({
  page
}) => {
  const { make } = CHAT_SCHEMAS[1]!;
  const folder = onDisk('unknown', { 'app.db': make(talk(4)), 'again.db': make(talk(5)) });
  await newCase(page, 'Unknown store');
  await page.getByTestId('files').setInputFiles(join(folder, 'app.db'));
  await passOver(page, 'app.db');
  const card = page.getByRole('article', { name: 'Source app.db' });
  await card.getByRole('link', { name: 'worked out' }).click();
  const preview = page.getByRole('complementary', { name: 'Messages that this mapping gives' });
  await expect(preview).toContainText('900 messages');
  await page.getByLabel('Clock').selectOption('milliseconds-1970');
  await expect(preview).toContainText(/\d Jan 1970/);
  await page.getByLabel('Clock').selectOption('seconds-1970');
  await expect(preview).toContainText(/\d \w{3} 2025/);
  await page.getByLabel('Name of the profile').fill('Pilot chat');
  await page.getByRole('button', { name: 'Save profile' }).click();
  await page.getByText('Saved profiles (1)').click();
  await expect(page.getByRole('listitem').filter({ hasText: 'Pilot chat' })).toBeVisible();
  const wrong = join(folder, 'wrong.json');
  writeFileSync(wrong, '{"id":"x","messages":[{"table":1}]}');
  await page.getByTestId('profile-file').setInputFiles(wrong);
  await expect(page.getByRole('alert')).toContainText('is not a reading profile');

  await page.getByRole('link', { name: 'Sources' }).first().click();
  await page.getByTestId('files').setInputFiles(join(folder, 'again.db'));
  await passOver(page, 'again.db');
  await expect(page.getByRole('article', { name: 'Source again.db' })).toContainText('fit 100');
});

test('folders: a backup from above, a card, a computer with copies; a pass can be narrowed', async ({
  page
}) => {
  const files = writeBackup({
    files: [
      { domain: 'HomeDomain', path: 'Library/SMS/chat.db', bytes: CHAT_SCHEMAS[0]!.make(talk(6)) }
    ],
    device: {
      name: 'Deck phone',
      model: 'P',
      system: '1',
      serial: 'S',
      phone: '',
      at: new Date(0)
    },
    layout: 'database'
  });
  const above = Object.fromEntries(Object.entries(files).map(([p, b]) => [`backups/one/${p}`, b]));
  await newCase(page, 'Folders');
  await page.getByTestId('folder').setInputFiles(onDisk('drawer', above));
  await passOver(page, /./);
  // The source takes the name of its device.
  const drawer = page.getByRole('article', { name: 'Source Deck phone' });
  await expect(drawer).toContainText('The backup lies in the folder backups/one');
  await expect(drawer).toContainText('Deck phone');

  for (const wanted of ['card', 'computer']) {
    const files =
      wanted === 'card' ? simCard() : MORE_SOURCES.find(({ folder }) => folder === wanted)!.files;
    await page.getByTestId('folder').setInputFiles(onDisk(wanted, files));
    await expect(page.getByRole('article', { name: `Source ${wanted}` })).toBeVisible();
    if (wanted === 'computer') {
      await page.getByText('Limit the search').click();
      await page.getByLabel('Messages', { exact: true }).uncheck();
    }
    await passOver(page, wanted);
  }
  await expect(page.getByRole('article', { name: 'Source card' })).toContainText('2 recovered');
  const computer = page.getByRole('article', { name: 'Source computer' });
  await expect(computer).toContainText('newest');
  await expect(computer).toContainText('6 calls and contacts');
});

test('storage of the first version is brought up without loss', async ({ page }) => {
  await page.goto('/no-such-page');
  await page.evaluate(
    () =>
      new Promise<void>((resolve, reject) => {
        const opening = indexedDB.open('ombudsman', 1);
        opening.onupgradeneeded = () => {
          const db = opening.result;
          db.createObjectStore('cases', { keyPath: 'id' });
          db.createObjectStore('sources', { keyPath: 'key' }).createIndex('case', 'caseId');
          db.createObjectStore('chunks', {
            keyPath: ['caseId', 'sourceId', 'store', 'part']
          }).createIndex('case', 'caseId');
          db.createObjectStore('blobs', { keyPath: 'sha256' });
          db.createObjectStore('exhibits', { keyPath: 'caseId' });
          db.createObjectStore('productions', { keyPath: 'id' }).createIndex('case', 'caseId');
        };
        opening.onerror = () => reject(new Error('the first version could not be made'));
        opening.onsuccess = () => {
          const db = opening.result;
          const tx = db.transaction('cases', 'readwrite');
          tx.objectStore('cases').put({
            id: 'old',
            name: 'Kept since the first version',
            client: '',
            zone: 'Etc/UTC',
            region: null,
            opened: 1,
            names: {},
            lastLine: 0,
            deletedAt: null,
            demo: false,
            lastProduction: null
          });
          tx.oncomplete = () => {
            db.close();
            resolve();
          };
        };
      })
  );
  await page.goto('/');
  await page.getByText('Kept since the first version').click();
  await expect(page.getByText('No sources yet')).toBeVisible();
});

test('an image of a medium says what it holds; its deleted files are listed, found by a pattern and saved', async ({
  page
}) => {
  const kept = new URL('../core/formats/medium/images/ntfs.img.gz', import.meta.url);
  await newCase(page, 'Stick');
  await page
    .getByTestId('files')
    .setInputFiles({ name: 'stick.img', mimeType: '', buffer: gunzipSync(readFileSync(kept)) });
  const card = page.getByRole('article', { name: 'Source stick.img' });
  await expect(card).toContainText(/NTFS “work”, 3\.1 MB, .* with \d+ files and 5 deleted ones/);
  await page.getByRole('button', { name: 'Examine stick.img' }).click();
  await expect(card).toContainText('image of a storage stick.img');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await facet(page, /^Files/).click();
  const rows = page.getByRole('row').filter({ hasText: 'stick.img/' });
  await page.getByLabel('Search this case').fill('pictures/*.jpg');
  await expect(rows).toHaveCount(3);
  const gone = rows.filter({ hasText: 'deleted/Pictures/IMG_0002.JPG' });
  await expect(gone).toContainText('deleted');
  const arriving = page.waitForEvent('download');
  await gone.getByRole('button', { name: 'Save IMG_0002.JPG' }).click();
  const saved = readFileSync(await (await arriving).path());
  expect(saved.length).toBe(45_000);
  expect(saved.subarray(0, 29).toString()).toBe('Pictures/IMG_0002.JPG line 0 ');
});
