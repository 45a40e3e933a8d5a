import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { type Page } from '@playwright/test';
import { expect, test } from './prepared';
import { newCase, openRead } from './helpers';

async function facet(page: Page, name: RegExp): Promise<void> {
  await page.getByRole('tablist', { name: 'Facets' }).getByRole('tab', { name }).click();
}

async function toProduce(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
}

function exhibits(page: Page): ReturnType<Page['locator']> {
  return page.getByRole('region', { name: 'Exhibit list' }).getByRole('listitem');
}

/** Produces the records and unpacks them; gives the folder of the package. */
async function produced(page: Page, press: string): Promise<string> {
  const arriving = page.waitForEvent('download');
  await page.getByRole('button', { name: press }).click();
  const folder = mkdtempSync(join(tmpdir(), 'production-'));
  const archive = join(folder, 'records.zip');
  await (await arriving).saveAs(archive);
  execFileSync('python3', ['-m', 'zipfile', '-e', archive, folder]);
  const [name] = readdirSync(folder).filter((entry) => entry !== 'records.zip');
  return join(folder, name!);
}

interface Described {
  exhibits: { label: string; title: string; kind: string; page: number }[];
  firstSerial: string;
  lastSerial: string;
}

test('hits, calls, files and gaps are chosen, named, arranged by keys, produced, and made again to the byte', async ({
  demo: page
}) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('receipt');
  await page.getByRole('button', { name: /^Select (all \d+ hits|the hit)$/ }).click();
  await expect(
    page.getByRole('link', { name: /records selected, to the exhibit list/ })
  ).toBeVisible();
  await page.getByLabel('Search this case').fill('');
  await facet(page, /^Calls/);
  await page.getByRole('checkbox', { name: 'Select row 1', exact: true }).click();
  await page
    .getByRole('checkbox', { name: 'Select row 2', exact: true })
    .click({ modifiers: ['Shift'] });
  await facet(page, /^Media/);
  await page.getByRole('checkbox', { name: 'Select slip-1.png' }).click();
  await facet(page, /^Gaps/);
  await page.getByRole('checkbox', { name: 'Select row 1' }).click();
  await toProduce(page);
  await expect(exhibits(page)).toHaveCount(4);
  await exhibits(page).nth(2).getByRole('button', { name: 'Files', exact: true }).click();
  await page.getByLabel('Name', { exact: true }).fill('The slipway');
  await page.keyboard.press('Tab');
  await expect(exhibits(page).nth(2)).toContainText('The slipway');
  // By keys: taken up, moved to the top, put down.
  await page.getByLabel('Move exhibit E3, The slipway').focus();
  await page.keyboard.press('Enter');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await expect(exhibits(page).first()).toContainText('The slipway');
  await page.getByLabel('Settings for').selectOption({ label: 'For a court' });
  await page.locator('canvas[data-page]').waitFor();
  const first = await produced(page, 'Produce records');
  const said = JSON.parse(readFileSync(join(first, 'data/production.json'), 'utf8')) as Described;
  expect(said.exhibits.map(({ label, kind }) => `${label} ${kind}`)).toEqual([
    'E1 files',
    'E2 thread',
    'E3 calls',
    'E4 gaps'
  ]);
  expect(said.exhibits[0]!.title).toBe('The slipway');
  expect(said.firstSerial).toBe('EX-000001');
  await expect(page.getByText(/were already used on/)).toBeVisible();
  await page.getByRole('button', { name: /Continue after the last production/ }).click();
  await expect(page.getByText(/were already used on/)).toHaveCount(0);
  await produced(page, 'Make it again');
  await expect(page.getByText('Byte for byte the same as the first time.')).toBeVisible();
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await expect(page.getByText('The chain holds.')).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: 'records produced again' })).toContainText(
    'the same bytes'
  );
});

test('marked words, a part of a picture and a person are covered, and taken back', async ({
  demo: page
}) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByLabel('Search this case').fill('This is the slip');
  const line = page.getByRole('article').filter({ hasText: 'so that you find it' });
  await line.locator('.file').click();
  await page.getByLabel('Reason code').fill('ID');
  await page.getByRole('button', { name: /^Cover part of slip-1.png/ }).click();
  const frame = page.getByRole('dialog').locator('.frame');
  await frame.locator('img').waitFor();
  const { x, y, width, height } = (await frame.boundingBox())!;
  await page.mouse.move(x + width * 0.2, y + height * 0.2);
  await page.mouse.down();
  await page.mouse.move(x + width * 0.7, y + height * 0.8, { steps: 4 });
  await page.mouse.up();
  await page.getByRole('button', { name: 'Cover the area' }).click();
  await expect(page.getByText(/^part of slip-1.png in line/)).toBeVisible();
  await line.locator('.body').evaluate((body) => {
    const words = document.createTreeWalker(body, NodeFilter.SHOW_TEXT);
    let node = words.nextNode();
    while (node && !node.textContent!.includes('find it')) node = words.nextNode();
    const from = node!.textContent!.indexOf('find it');
    document.getSelection()!.setBaseAndExtent(node!, from, node!, from + 'find it'.length);
  });
  await page.getByRole('button', { name: 'Cover “find it”' }).click();
  await expect(line.getByText('ID', { exact: true })).toHaveCount(2);
  await line.getByRole('button', { name: /Select line/ }).click();
  await toProduce(page);
  await page.getByLabel('Settings for').selectOption({ label: 'For a client' });
  await page
    .getByLabel('Cover', { exact: true })
    .selectOption({ label: 'a person, wherever named' });
  await page
    .getByLabel('Person', { exact: true })
    .selectOption({ label: 'Halvard Nystuen, +44 7700 900184' });
  await page.getByLabel('Reason code').fill('NAME');
  await page.getByRole('button', { name: 'Redact', exact: true }).click();
  await page.getByLabel('NAME', { exact: true }).fill('a third person');
  await page.keyboard.press('Tab');
  const folder = await produced(page, 'Produce records');
  const holds = (words: string): string => {
    try {
      return execFileSync('grep', ['-rli', words, folder], { encoding: 'utf8' });
    } catch {
      return '';
    }
  };
  for (const secret of ['find it', 'Halvard', 'Nystuen', '900184']) expect(holds(secret)).toBe('');
  const printed = execFileSync('pdftotext', ['-raw', join(folder, 'data/record.pdf'), '-'], {
    encoding: 'utf8'
  });
  expect(printed).toContain('NAME');
  expect(printed).not.toMatch(/Halvard|Nystuen|find it|900184/);
  const log = readFileSync(join(folder, 'data/redactions.csv'), 'utf8');
  expect(log).toMatch(/ID,,area,\d+/);
  expect(log).toMatch(/NAME,a third person,person,everywhere/);
  await page.getByRole('button', { name: /^Remove the redaction of Halvard/ }).click();
  await expect(page.getByText('Halvard Nystuen, wherever named')).toHaveCount(0);
});

test('records are written into a chosen folder; a folder, changed or not, and a log are checked', async ({
  demo: page
}) => {
  await page.addInitScript(() => {
    Object.assign(window, {
      showDirectoryPicker: async () =>
        (await navigator.storage.getDirectory()).getDirectoryHandle('chosen', { create: true })
    });
  });
  await page.reload();
  await openRead(page, /Halvard Nystuen/);
  await page
    .getByRole('group', { name: 'States shown' })
    .getByRole('button', { name: /^live/ })
    .click();
  await page.getByRole('button', { name: 'Select conversation' }).click();
  await toProduce(page);
  await page.getByLabel('Workbook').check();
  await page.getByLabel('Rebuilt database').check();
  await page.getByLabel('for archives (PDF/A-3b)').check();
  await page.getByRole('button', { name: 'Produce into a folder …' }).click();
  await expect(page.getByText('in the folder that was chosen')).toBeVisible();
  const written = await page.evaluate(async () => {
    const found: Record<string, number[]> = {};
    const walk = async (folder: FileSystemDirectoryHandle, path: string): Promise<void> => {
      const entries = folder as unknown as AsyncIterable<[string, FileSystemHandle]>;
      for await (const [name, handle] of entries)
        if (handle instanceof FileSystemDirectoryHandle) await walk(handle, `${path}${name}/`);
        else if (handle instanceof FileSystemFileHandle)
          found[path + name] = [...new Uint8Array(await (await handle.getFile()).arrayBuffer())];
    };
    const root = await navigator.storage.getDirectory();
    await walk(await root.getDirectoryHandle('chosen'), '');
    return found;
  });
  const folder = mkdtempSync(join(tmpdir(), 'chosen-'));
  for (const [path, bytes] of Object.entries(written)) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), Uint8Array.from(bytes));
  }
  const bag = join(folder, readdirSync(folder)[0]!);
  execFileSync('sha256sum', ['--quiet', '-c', 'manifest-sha256.txt'], { cwd: bag });
  const pdf = join(bag, 'data/record.pdf');
  execFileSync('qpdf', ['--check', pdf]);
  expect(
    execFileSync('qpdf', ['--qdf', pdf, '-'], { maxBuffer: 1 << 28 }).toString('latin1')
  ).toMatch(/pdfaid:part>3</);
  const stores = readdirSync(join(bag, 'data/database')).filter((name) => name.endsWith('.db'));
  expect(stores.length).toBeGreaterThan(0);
  for (const name of stores) {
    const path = join(bag, 'data/database', name);
    const sound = execFileSync('sqlite3', [path, 'PRAGMA integrity_check'], { encoding: 'utf8' });
    expect(sound.trim()).toBe('ok');
  }
  await page.getByTestId('package-folder').setInputFiles(bag);
  await expect(page.getByText('Nothing was changed.')).toBeVisible();
  appendFileSync(join(bag, 'data/README.txt'), 'one more line');
  await page.getByTestId('package-folder').setInputFiles(bag);
  await expect(page.getByText('data/README.txt: changed')).toBeVisible();
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  const arriving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save the log' }).click();
  const log = join(folder, 'custody.jsonl');
  await (await arriving).saveAs(log);
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  await page.getByTestId('package').setInputFiles(log);
  await expect(page.getByText('Nothing was changed.')).toBeVisible();
  writeFileSync(log, readFileSync(log, 'utf8').replace('examination finished', 'examination gone'));
  await page.getByTestId('package').setInputFiles(log);
  await expect(page.getByText(/broken-chain/)).toBeVisible();
});

test('pictures and recordings that few programs open are converted, shown and covered in the browser', async ({
  page
}) => {
  const folder = join(mkdtempSync(join(tmpdir(), 'samples-')), 'phone');
  mkdirSync(folder);
  copyFileSync('static/demo/phone-telephony.db', join(folder, 'phone-telephony.db'));
  const samples = readdirSync('core/tests/samples');
  for (const name of samples) copyFileSync(join('core/tests/samples', name), join(folder, name));
  await newCase(page, 'Samples');
  await page.getByTestId('folder').setInputFiles(folder);
  await page
    .getByRole('button', { name: /^Examine/ })
    .first()
    .click();
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await facet(page, /^Media [1-9]/);
  for (const name of samples) await page.getByRole('checkbox', { name: `Select ${name}` }).click();
  const heic = page.getByRole('listitem').filter({ hasText: 'picture.heic' }).locator('img');
  await expect.poll(() => heic.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(240);
  await toProduce(page);
  const bag = await produced(page, 'Produce records');
  expect(readdirSync(join(bag, 'data/media/readable')).sort()).toEqual([
    '001-picture.jpg',
    '002-picture.jpg',
    '003-picture.jpg',
    '004-voice-wide.wav',
    '005-voice.wav',
    '006-voice.wav'
  ]);
  const said = JSON.parse(readFileSync(join(bag, 'data/production.json'), 'utf8')) as {
    notConverted: unknown[];
  };
  expect(said.notConverted).toEqual([]);
  const images = execFileSync('pdfimages', ['-list', join(bag, 'data/record.pdf')], {
    encoding: 'utf8'
  });
  expect(images.trim().split('\n').length - 2).toBe(3);
});

test('lists stand side by side, trimmed to days; what is closed takes no more; a preset is kept', async ({
  demo: page
}) => {
  await openRead(page, /Halvard Nystuen/);
  await page.getByRole('button', { name: 'Select conversation' }).click();
  await toProduce(page);
  await expect(exhibits(page)).toContainText('whole conversation, 322 messages');
  await page.getByLabel('From day').fill('2026-03-12');
  await page.keyboard.press('Tab');
  await page.getByLabel('To day').fill('2026-03-12');
  await page.keyboard.press('Tab');
  await expect(exhibits(page)).toContainText(/ of 322 messages/);
  await page.getByLabel('Context').fill('2');
  await page.keyboard.press('Tab');
  await expect(exhibits(page)).toContainText('with 2 messages of context');
  await page.getByRole('button', { name: /^Remove Halvard Nystuen/ }).click();
  await expect(exhibits(page)).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(exhibits(page)).toContainText('with 2 messages of context');
  await page.getByRole('button', { name: 'New list' }).click();
  await page.getByLabel('Name of the list').fill('For the other side');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Nothing is selected yet.')).toBeVisible();
  await page.getByLabel('List in use').selectOption({ label: 'Exhibits (1)' });
  await expect(exhibits(page)).toHaveCount(1);
  await page.getByRole('button', { name: 'Save or share' }).click();
  await page.getByRole('menuitem', { name: 'Save as …' }).click();
  await page.getByLabel('Name of these settings').fill('Harbour office');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Settings for')).toContainText('Harbour office');
  await page.reload();
  await expect(page.getByLabel('Settings for')).toContainText('Harbour office');
  await expect(exhibits(page)).toContainText('with 2 messages of context');
});

/** The head of a package of another kind than those that are opened. */
const BOXED = Buffer.from('377abcaf271c', 'hex');

test('a file with covered words inside goes along only by a decision, which stands in the log', async ({
  page
}) => {
  const folder = join(mkdtempSync(join(tmpdir(), 'inside-')), 'Export');
  mkdirSync(folder);
  const lines = ['Kit', 'Ada', 'Kit', 'Ada'].map(
    (name, i) => `2025-03-05 14:0${i}:00 ${name}: the Marigold plan, part ${i}`
  );
  writeFileSync(join(folder, 'Kit.txt'), lines.join('\n'));
  writeFileSync(
    join(folder, 'plan.vcf'),
    'BEGIN:VCARD\nVERSION:3.0\nFN:Mari\n gold Ltd\nEND:VCARD\n'
  );
  writeFileSync(join(folder, 'boxed.7z'), Buffer.concat([BOXED, Buffer.alloc(60, 0x5a)]));
  await newCase(page, 'Inside of files');
  await page.getByTestId('folder').setInputFiles(folder);
  await page.getByRole('button', { name: 'Examine Export' }).click();
  await expect(page.getByRole('article', { name: 'Source Export' })).toContainText('4 live');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await facet(page, /^Files/);
  for (const name of ['plan.vcf', 'boxed.7z'])
    await page.getByRole('row').filter({ hasText: name }).getByRole('checkbox').click();
  await toProduce(page);
  await page
    .getByLabel('Cover', { exact: true })
    .selectOption({ label: 'words, wherever they are' });
  const words = page.getByLabel('Words', { exact: true });
  await words.fill('nowhere at all');
  await page.getByLabel('Reason code').fill('TRADE');
  await page.getByRole('button', { name: 'Redact', exact: true }).click();
  await expect(page.getByText('“nowhere at all” stands nowhere in this case.')).toBeVisible();
  await words.fill('marigold');
  await page.getByRole('button', { name: 'Redact', exact: true }).click();
  await page.getByRole('button', { name: 'Produce records' }).click();
  const dialog = page.getByRole('dialog');
  const plan = dialog.getByRole('listitem').filter({ hasText: 'plan.vcf' });
  const boxed = dialog.getByRole('listitem').filter({ hasText: 'boxed.7z' });
  await expect(boxed).toContainText('cannot be read inside');
  await boxed.getByLabel('Cover it whole').check();
  await plan.getByLabel('Let it go along as it is').check();
  const arriving = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Produce records' }).click();
  await arriving;
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await expect(page.getByRole('row').filter({ hasText: 'file let go' })).toContainText('TRADE');
});
