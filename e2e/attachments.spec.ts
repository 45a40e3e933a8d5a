import { expect, test, type Locator, type Page } from '@playwright/test';
import { PDFDocument } from '@cantoo/pdf-lib';
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { makeDatabase } from '../core/tests/databases';
import { HANDLE_CHAT_SCHEMA, insertChats } from '../core/tests/handle-chat';
import { jpegOf, pngOf } from '../core/tests/production-case';
import { closeDialog, failOnErrors, newCase } from './helpers';

test.beforeEach(({ page }) => failOnErrors(page));

const AT = Date.UTC(2026, 2, 1, 9);
const CALENDAR = [
  'BEGIN:VCALENDAR',
  'VERSION:2.0',
  'BEGIN:VEVENT',
  'UID:1',
  'SUMMARY:Launch of the ferry',
  'DTSTART:20260412T090000Z',
  'LOCATION:Quay 4',
  'END:VEVENT',
  'END:VCALENDAR'
].join('\r\n');
const CARD = 'BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ragna Solheim\r\nTEL:+44 7700 900219\r\nEND:VCARD';

/** The parts of a word processor's file. */
const LETTER = {
  '[Content_Types].xml': strToU8(
    '<Types><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>'
  ),
  'word/document.xml': strToU8(
    '<w:document><w:body><w:p><w:r><w:t>Oak for the ferry, 40,000</w:t></w:r></w:p></w:body></w:document>'
  )
};

/** Files of every kind that a conversation carries, by their names. */
async function kinds(): Promise<Map<string, Uint8Array>> {
  const sample = (folder: string, name: string): [string, Uint8Array] => [
    name,
    readFileSync(join('core/tests', folder, name))
  ];
  const pdf = await PDFDocument.create();
  for (const words of ['first sheet', 'second sheet']) pdf.addPage([300, 400]).drawText(words);
  return new Map<string, Uint8Array>([
    sample('samples', 'picture.heic'),
    sample('samples', 'picture.avif'),
    sample('samples', 'picture.webp'),
    sample('clips', 'moving.gif'),
    ['plan.png', pngOf(96, 64, 5)],
    ['paler.jpg', jpegOf(240, 160, 5)],
    sample('samples', 'voice.amr'),
    sample('samples', 'voice.ogg'),
    sample('clips', 'voice.m4a'),
    sample('clips', 'clip.webm'),
    sample('clips', 'clip.mp4'),
    ['slip.pdf', await pdf.save()],
    ['words.txt', Buffer.from('the deposit was paid in cash')],
    ['offer.docx', zipSync(LETTER)],
    ['ragna.vcf', Buffer.from(CARD)],
    ['launch.ics', Buffer.from(CALENDAR)],
    ['odd.zzz', Uint8Array.from({ length: 300 }, (_, i) => (i * 7) % 256)],
    ['lies.pdf', pngOf(40, 40, 9)]
  ]);
}

/** A folder with a store whose lines carry the files, one each, and the files beside it; one may lie where the store does not look for it. */
async function onDisk(moved?: string): Promise<string> {
  const folder = join(mkdtempSync(join(tmpdir(), 'attachments-')), 'phone');
  mkdirSync(join(folder, 'Attachments'), { recursive: true });
  mkdirSync(join(folder, 'Elsewhere'));
  const files = [...(await kinds())];
  for (const [name, bytes] of files) {
    const place = name === moved ? join('Elsewhere', `kept-${name}`) : join('Attachments', name);
    writeFileSync(join(folder, place), bytes);
  }
  const store = makeDatabase((db) => {
    db.run(HANDLE_CHAT_SCHEMA);
    db.run(`CREATE TABLE attachment (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, created_date INTEGER DEFAULT 0, filename TEXT, uti TEXT, mime_type TEXT, transfer_name TEXT, total_bytes INTEGER DEFAULT 0);
      CREATE TABLE message_attachment_join (message_id INTEGER, attachment_id INTEGER, UNIQUE(message_id, attachment_id));`);
    insertChats(
      db,
      files.map(([name], i) => ({
        id: i + 1,
        address: '+447700900219',
        date: AT + i * 60_000,
        type: 1 + (i % 2),
        body: `here is ${name}`
      }))
    );
    files.forEach(([name], i) => {
      db.run(
        'INSERT INTO attachment(ROWID, guid, filename, transfer_name, total_bytes) VALUES(?,?,?,?,1)',
        [i + 1, `a${i}`, `~/Attachments/${name}`, name]
      );
      db.run('INSERT INTO message_attachment_join VALUES(?,?)', [i + 1, i + 1]);
    });
  });
  writeFileSync(join(folder, 'sms.db'), store);
  return folder;
}

/** The colour of a picture's first pixel, drawn by the browser. */
function firstPixel(picture: Locator): Promise<number[]> {
  return picture.evaluate((shown: HTMLImageElement | HTMLVideoElement) => {
    const canvas = new OffscreenCanvas(2, 2);
    const context = canvas.getContext('2d')!;
    context.drawImage(shown, 0, 0);
    return [...context.getImageData(0, 0, 1, 1).data.slice(0, 3)];
  });
}

function isRust([red, green, blue]: number[]): boolean {
  return red! > 150 && green! < 110 && blue! < 60;
}

/** A case whose one source is the folder, examined, with Read before it. */
async function examined(page: Page, name: string, moved?: string): Promise<void> {
  await newCase(page, name);
  await page.getByTestId('folder').setInputFiles(await onDisk(moved));
  await page
    .getByRole('button', { name: /^Examine/ })
    .first()
    .click();
  await expect(page.getByRole('article', { name: 'Source phone' })).toContainText('18 live');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
}

const viewer = (page: Page): Locator => page.getByRole('dialog');

async function look(page: Page, name: string): Promise<Locator> {
  await page.getByRole('button', { name: `Open ${name}`, exact: true }).click();
  const stage = viewer(page);
  await expect(stage.getByText(name, { exact: true }).first()).toBeVisible();
  return stage;
}

test('every kind of attachment is seen, heard or read, in the line and in full size', async ({
  page
}) => {
  await examined(page, 'Attachments');
  await page.getByText('here is picture.heic').first().waitFor();

  for (const name of ['picture.heic', 'picture.avif', 'picture.webp', 'moving.gif', 'plan.png']) {
    const stage = await look(page, name);
    const picture = stage.getByRole('img', { name });
    await expect.poll(() => picture.evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(96);
    if (name !== 'moving.gif')
      await expect
        .poll(async () => isRust(await firstPixel(picture)), { message: name })
        .toBe(true);
    await expect(stage).toContainText('96 × 64 pixels');
    await closeDialog(page);
  }

  // Keys turn and zoom, and go from file to file.
  let stage = await look(page, 'plan.png');
  await expect(stage.getByRole('img', { name: 'plan.png' })).toBeVisible();
  await page.keyboard.press('r');
  await page.keyboard.press('+');
  await expect(stage.getByRole('img', { name: 'plan.png' })).toHaveAttribute(
    'style',
    /rotate\(90deg\) scale\(1\.25\)/
  );
  await expect(stage).toContainText('image/png');
  await expect(stage.getByText(/^[0-9a-f]{64}$/)).toBeVisible();
  await expect(stage.getByRole('button', { name: /^line \d+, / })).toBeVisible();
  await closeDialog(page);

  for (const name of ['voice.amr', 'voice.ogg', 'voice.m4a']) {
    stage = await look(page, name);
    await expect(stage.getByTestId('sound-length')).toHaveText('0:01');
    // The wave is drawn: some of it is not blank.
    await expect
      .poll(() =>
        stage.locator('[data-kind="sound"] .bars').evaluate((bars) => {
          const canvas = bars.firstElementChild?.shadowRoot?.querySelector('canvas');
          const data = canvas?.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height);
          return data ? data.data.some((value) => value > 0) : false;
        })
      )
      .toBe(true);
    await closeDialog(page);
  }

  for (const name of ['clip.webm', 'clip.mp4']) {
    stage = await look(page, name);
    const video = stage.locator('video');
    await expect
      .poll(() => video.evaluate((clip: HTMLVideoElement) => clip.readyState))
      .toBeGreaterThan(1);
    // A frame that is there can still be on its way to where it is drawn.
    await expect.poll(async () => isRust(await firstPixel(video)), { message: name }).toBe(true);
    await closeDialog(page);
  }

  stage = await look(page, 'slip.pdf');
  await expect(stage.getByText('page 1 of 2')).toBeVisible();
  await page.keyboard.press('PageDown');
  await expect(stage.getByText('page 2 of 2')).toBeVisible();
  await closeDialog(page);

  const READ: [string, string][] = [
    ['words.txt', 'the deposit was paid in cash'],
    ['offer.docx', 'Oak for the ferry, 40,000'],
    ['ragna.vcf', '+44 7700 900219'],
    ['launch.ics', '2026-04-12 09:00 UTC, Quay 4'],
    ['odd.zzz', 'odd.zzz cannot be shown: its type is not known.']
  ];
  for (const [name, words] of READ) {
    stage = await look(page, name);
    await expect(stage.locator('[data-kind]').getByText(words)).toBeVisible();
    await closeDialog(page);
  }

  stage = await look(page, 'lies.pdf');
  await expect(stage.getByText('File name suggests application/pdf.')).toBeVisible();
  await stage.getByLabel('Note on this file').fill('not what it says');
  await stage.getByLabel('Note on this file').blur();
  await closeDialog(page);
});

test('the media sheet shows days, narrows, chooses by range, and takes lookalikes for one', async ({
  page
}) => {
  await examined(page, 'Media');
  await page
    .getByRole('tablist', { name: 'Facets' })
    .getByRole('tab', { name: /^Media/ })
    .click();
  const sheet = page.getByRole('main', { name: 'Media' });
  const tiles = sheet.getByRole('listitem');
  await expect(tiles).toHaveCount(12);
  const heic = sheet.getByRole('button', { name: 'Look at picture.heic' }).locator('img');
  await expect.poll(() => heic.evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(240);
  expect(isRust(await firstPixel(heic))).toBe(true);

  await sheet.getByRole('button', { name: /^recordings 3/ }).click();
  await expect(tiles).toHaveCount(3);
  await sheet.getByRole('button', { name: /^recordings 3/ }).click();
  await sheet.getByLabel('With a message or without').selectOption('without');
  await expect(sheet).toContainText('No media match what the sheet is narrowed to.');
  await sheet.getByLabel('With a message or without').selectOption('all');

  await sheet.getByRole('checkbox', { name: 'Select picture.heic' }).click();
  await sheet.getByRole('checkbox', { name: 'Select moving.gif' }).click({ modifiers: ['Shift'] });
  await expect(page.getByRole('link', { name: /4 records selected/ })).toBeVisible();
  await expect(sheet.getByRole('checkbox', { checked: true })).toHaveCount(4);
  await sheet.getByRole('button', { name: 'Label the 4 selected' }).click();
  await page.getByRole('dialog', { name: 'Label the 4 selected' }).getByLabel('Label').fill('boat');
  await page.keyboard.press('Enter');
  await sheet.getByLabel('Labels of what is shown').selectOption('boat');
  await expect(tiles).toHaveCount(4);
  await expect(tiles.first()).toContainText('boat');
  await sheet.getByLabel('Labels of what is shown').selectOption({ label: 'labelled or not' });
  const clip = sheet.getByRole('button', { name: 'Look at clip.webm' }).locator('img');
  await expect
    .poll(() => clip.evaluate((img: HTMLImageElement) => img.naturalWidth))
    .toBeGreaterThan(0);

  await sheet.getByRole('button', { name: 'Show lookalikes as one' }).click();
  await expect(sheet).toContainText('similarity: at least 58 of 64');
  await expect(sheet).toContainText('alike');
  await expect.poll(() => tiles.count()).toBeLessThan(11);
  await sheet.getByRole('button', { name: 'Show each' }).click();
  await expect(tiles).toHaveCount(12);

  // Documents are documents.
  await page
    .getByRole('tablist', { name: 'Facets' })
    .getByRole('tab', { name: /^Documents/ })
    .click();
  const table = page.getByRole('table', { name: 'Documents' });
  await expect(table).toContainText('slip.pdf');
  await expect(table).not.toContainText('sms.db');
  await table.getByRole('button', { name: 'Size' }).click();
  await expect(table.getByRole('columnheader', { name: /Size/ })).toHaveAttribute(
    'aria-sort',
    'ascending'
  );
});

test('a file that the store does not lead to is joined by hand, marked, and taken off again', async ({
  page
}) => {
  await examined(page, 'Joined', 'paler.jpg');
  const line = page.getByRole('article').filter({ hasText: 'here is paler.jpg' });
  await expect(line).toContainText('not in the source');
  await expect(line).toContainText('the store names its place');
  await line.getByRole('button', { name: 'Join a file' }).click();
  const dialog = page.getByRole('dialog', { name: 'Join a file to paler.jpg' });
  await dialog.getByLabel('Search files').fill('elsewhere');
  await expect(dialog.getByRole('listitem')).toHaveCount(1);
  await dialog.getByRole('button', { name: 'Join', exact: true }).click();
  await expect(line).toContainText('joined by hand');
  await expect(line.getByRole('img')).toBeVisible();
  // A reload keeps it; taking it off leaves the line as the store tells of it.
  await page.reload();
  await expect(line).toContainText('joined by hand');
  await line.getByRole('button', { name: 'Remove it' }).click();
  await expect(line).toContainText('not in the source');
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await expect(page.getByRole('main')).toContainText('file join removed');
});
