import { createHash, randomBytes } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import { sealStore } from '../bench/writers/sealed-store';
import { makeDatabase, temporaryFile } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';
import { failOnErrors, newCase } from './helpers';

test.beforeEach(({ page }) => failOnErrors(page));

function store(count: number): Buffer {
  const bytes = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(count, seeded(6)));
    db.run('DELETE FROM sms WHERE _id % 5 = 0');
  });
  return Buffer.from(bytes);
}

const WORDS = 'bring quay boat tide lamp rope shed noon key oil fish dawn storm'.split(' ');

async function addFile(page: Page, name: string, buffer: Buffer): Promise<void> {
  await page
    .getByTestId('files')
    .setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
  await expect(page.getByRole('article', { name: `Source ${name}` })).toBeVisible();
}

/** Bytes as an encrypted file holds them, the same in each run. */
function noise(length: number): Buffer {
  const blocks = Array.from({ length: Math.ceil(length / 32) }, (_, i) =>
    createHash('sha256').update(String(i)).digest()
  );
  return Buffer.concat(blocks).subarray(0, length);
}

test('files that cannot be read are answered with one plain sentence each', async ({ page }) => {
  await newCase(page, 'Wrong files');
  const png = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64'
  );
  const whole = store(600);
  const cases: [string, Buffer, string][] = [
    ['empty.db', Buffer.alloc(0), 'is empty (0 bytes)'],
    [
      'notes.txt',
      Buffer.from('The tea urn is haunted.'),
      'is a text file in which no messages were found'
    ],
    ['tin.png', png, 'is a picture, not a message store'],
    ['locked.db', noise(20_000), 'look random'],
    [
      'fish.db',
      Buffer.from(makeDatabase((db) => db.run('CREATE TABLE fish(a); INSERT INTO fish VALUES(1)'))),
      'none of its tables fits a reading profile'
    ],
    ['cut.db', whole.subarray(0, Math.floor(whole.length / 2)), 'is cut short: it should hold']
  ];
  for (const [name, buffer, sentence] of cases) {
    await addFile(page, name, buffer);
    await page.getByRole('button', { name: 'Examine', exact: true }).click();
    const card = page.getByRole('article', { name: `Source ${name}` });
    await expect(card).toContainText(sentence);
    await expect(card).toHaveCount(1);
  }
  await expect(page.getByRole('article', { name: 'Source cut.db' })).toContainText('live');
});

test('a database in a raw image is found at depth whole, also after a reload', async ({ page }) => {
  await newCase(page, 'Raw image');
  await addFile(
    page,
    'card.img',
    Buffer.concat([randomBytes(300_032), store(200), randomBytes(9000)])
  );
  await page.getByRole('radio', { name: /Everything, raw/ }).check();
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  const card = page.getByRole('article', { name: 'Source card.img' });
  await expect(card).toContainText(/%|card\.img at 300032/);
  await page.reload();
  await expect(card).toContainText('card.img at 300032');
  await expect(card).toContainText('160 live');
});

test('an image that holds a database says so, and examining it is the next press', async ({
  page
}) => {
  await newCase(page, 'Image');
  const image = Buffer.concat([noise(300_032), store(200), noise(9000)]);
  await addFile(page, 'card.img', image);
  const card = page.getByRole('article', { name: 'Source card.img' });
  await expect(card).toContainText('a database begins at byte 300,032');
  await expect(page.getByRole('radio', { name: /Everything, raw/ })).toBeChecked();
  await page.getByRole('button', { name: 'Examine card.img' }).click();
  await expect(card).toContainText('160 live');
});

test('a case’s and a source’s details are changed afterwards', async ({ page }) => {
  await newCase(page, 'Wrong name');
  await addFile(page, 'a.db', store(20));
  await page.getByRole('button', { name: 'Details of the case Wrong name' }).click();
  await page.getByLabel('Case', { exact: true }).fill('Right name');
  await page.getByLabel('Client').fill('Ida Fosse');
  await page.getByLabel('Time zone').selectOption('Asia/Tokyo');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('banner')).toContainText('Right name');
  await expect(page.getByRole('banner')).toContainText('Asia/Tokyo');
  await page.getByRole('button', { name: 'Name and zone' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Phone of Ida');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('article', { name: 'Source Phone of Ida' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('article', { name: 'Source Phone of Ida' })).toBeVisible();
});

test('a long pass can be read during, paused, reloaded and stopped', async ({ page }) => {
  await newCase(page, 'Long pass');
  // By its path, for a driver that carries the bytes over would itself hold the page up.
  await page.getByTestId('files').setInputFiles(temporaryFile('large.db', store(60_000)));
  await expect(page.getByRole('article', { name: 'Source large.db' })).toBeVisible();
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  const strip = page.getByRole('region', { name: 'Examination in progress' });
  // The first live lines can be read while the rest is being searched.
  await expect(strip).toContainText('found 1,000');
  await strip.getByRole('button', { name: 'Pause' }).click();
  await expect(strip).toContainText('paused');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await expect(page.getByRole('article').first()).toBeVisible();

  await page.reload();
  await expect(strip).toContainText('resumed after a reload');
  await expect(page.getByRole('article').first()).toBeVisible();
  await expect(strip).toHaveCount(0);
  await page.getByRole('link', { name: 'Sources', exact: true }).click();
  const card = page.getByRole('article', { name: 'Source large.db' });
  await expect(card).toContainText('48,000 live');
  await expect(card).toContainText(/1[12],\d{3} recovered/);

  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  await strip.getByRole('button', { name: 'Stop' }).click();
  await expect(strip).toHaveCount(0);
  await expect(card).toContainText('The examination was stopped early');
  await expect(card).toContainText('48,000 live');
});

test('a folder is one source; a log beside a database belongs to it', async ({ page }) => {
  await newCase(page, 'Companions');
  await page.getByTestId('files').setInputFiles([
    { name: 'a.db', mimeType: '', buffer: store(50) },
    { name: 'a.db-wal', mimeType: '', buffer: Buffer.alloc(0) }
  ]);
  await expect(page.getByRole('article', { name: 'Source a.db' })).toContainText('2 files');
  await expect(page.getByRole('article')).toHaveCount(1);
});

test('cases are kept, searched, deleted and brought back', async ({ page }) => {
  await newCase(page, 'First matter');
  await newCase(page, 'Second matter');
  await page.getByRole('link', { name: 'Ombudsman, to the casebook' }).click();
  const rows = page.getByRole('row');
  await expect(rows).toHaveCount(3);
  await page.getByLabel('Search cases and clients').fill('second');
  await expect(rows).toHaveCount(2);
  await page.getByRole('button', { name: 'Delete case Second matter' }).click();
  await expect(page.getByRole('dialog')).toContainText('can be brought back for a day');
  await page.getByRole('button', { name: 'Delete case', exact: true }).click();
  await expect(page.getByText('Second matter was deleted.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('link', { name: 'Second matter' })).toBeVisible();
  // Also after a reload.
  await page.getByLabel('Search cases and clients').fill('');
  await page.getByRole('button', { name: 'Delete case First matter' }).click();
  await page.getByRole('button', { name: 'Delete case', exact: true }).click();
  await expect(page.getByText('First matter was deleted.')).toBeVisible();
  await page.reload();
  await page.getByText('1 deleted case').click();
  await page.getByRole('button', { name: 'Bring back First matter' }).click();
  await page.getByLabel('Search cases and clients').fill('');
  await expect(rows).toHaveCount(3);
  await page.goto('/case/no-such-case/read');
  await expect(page.getByRole('alert')).toContainText('This case is not in this browser.');
});

test('narrow pages: reading works at 1024 and at 400', async ({ page }) => {
  await newCase(page, 'Narrow');
  await addFile(page, 'a.db', store(300));
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Source a.db' })).toContainText('recovered');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  for (const width of [1024, 400]) {
    await page.setViewportSize({ width, height: 800 });
    await expect(page.getByRole('article').first()).toBeVisible();
    const overflow = await page.evaluate(
      () => document.documentElement.scrollWidth - window.innerWidth
    );
    expect(overflow, `at ${width}`).toBeLessThanOrEqual(0);
  }
  await page.getByRole('button', { name: 'Correspondents' }).click();
  await expect(page.getByRole('navigation', { name: 'Correspondents' })).toBeVisible();
});

test('a case file is saved, and read again as a case', async ({ page }) => {
  await newCase(page, 'To be moved');
  await addFile(page, 'a.db', store(200));
  await page.getByRole('button', { name: 'Examine', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Source a.db' })).toContainText('recovered');
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  const arriving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save the case file' }).click();
  const path = await (await arriving).path();
  await page.goto('/');
  await page.getByTestId('case-file').setInputFiles({
    name: 'wrong.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"format":1}')
  });
  await expect(page.getByRole('alert')).toContainText('wrong.json is not a case file of version 1');
  await page.getByTestId('case-file').setInputFiles(path);
  await page.waitForURL('**/read');
  await expect(page.getByRole('button', { name: /recovered 40/ })).toBeVisible();
  // The same bytes are on the shelf of the first case, so the proof can be shown here too.
  await expect(page.getByRole('complementary', { name: 'Details' })).toContainText('a.db, page');
});

test('what is added says at once what it is, and one press examines it all', async ({ page }) => {
  await newCase(page, 'At once');
  await addFile(page, 'provider.db', store(300));
  await addFile(page, 'notes.txt', Buffer.from('The tea urn is haunted.'));
  await addFile(page, 'nothing.db', Buffer.alloc(0));
  await addFile(page, 'noise.bin', randomBytes(30_000));
  const log = ['Ansel', 'me', 'Ansel', 'me']
    .map((name, i) => `2024-03-05 14:0${i}:00 ${name}: words of line ${i}`)
    .join('\n');
  await addFile(page, 'Ansel.txt', Buffer.from(log));
  const card = (name: string) => page.getByRole('article', { name: `Source ${name}` });
  await expect(card('provider.db')).toContainText(/telephony provider, about 240 messages, /);
  await expect(card('Ansel.txt')).toContainText('text log, about 4 messages, March 2024');
  await expect(card('notes.txt')).toContainText('text file in which no messages were found');
  await expect(card('nothing.db')).toContainText('nothing to examine');
  await expect(card('noise.bin')).toContainText('look random');
  await page.getByRole('button', { name: 'Examine 3 sources' }).click();
  await expect(card('provider.db')).toContainText('240 live');
  await expect(card('Ansel.txt')).toContainText('4 live');
  await expect(page.getByRole('button', { name: /^Examine / })).toHaveCount(0);
});

test('where nothing shows who wrote, one answer tells it', async ({ page }) => {
  await newCase(page, 'One question');
  const bytes = makeDatabase((db) => {
    db.run(
      'CREATE TABLE texts(id INTEGER PRIMARY KEY, phone_number TEXT, sent_on INTEGER, box INTEGER, content TEXT)'
    );
    for (let i = 0; i < 60; i++)
      db.run('INSERT INTO texts VALUES(?,?,?,?,?)', [
        i + 1,
        `+4477009000${10 + (i % 5)}`,
        1_700_000_000_000 + i * 1e7,
        1 + (Math.floor(i / 5) % 2),
        `${WORDS[i % 7]} ${WORDS[(i * 3) % 11]} ${WORDS[(i * 5 + 2) % 13]} the ${WORDS[(i + 4) % 9]}`
      ]);
  });
  await addFile(page, 'texts.db', Buffer.from(bytes));
  await page.getByRole('button', { name: 'Examine texts.db' }).click();
  const card = page.getByRole('article', { name: 'Source texts.db' });
  await expect(card).toContainText('60 live');
  await card.getByRole('link', { name: 'Answer one question' }).click();
  const ask = page.getByRole('region', { name: 'One question' });
  await expect(ask).toContainText('Which of these messages did the owner write?');
  await ask.getByRole('button', { name: 'The owner wrote these' }).first().click();
  await page.getByRole('button', { name: 'Save and examine' }).click();
  await page.getByRole('link', { name: 'Sources', exact: true }).first().click();
  await expect(card).toContainText('60 live');
  await expect(card.getByRole('link', { name: 'Answer one question' })).toHaveCount(0);
});

test('a source that is removed says what goes along, comes back after a reload, and keeps its number', async ({
  page
}) => {
  await newCase(page, 'Removed');
  await addFile(page, 'one.db', store(100));
  await page.getByRole('button', { name: 'Examine one.db' }).click();
  const card = page.getByRole('article', { name: 'Source one.db' });
  await expect(card).toContainText('80 live');
  await page.getByRole('link', { name: 'Read', exact: true }).click();
  await expect(page.getByRole('article', { name: /^Line / }).first()).toBeVisible();
  await page.keyboard.press(']');
  await page.keyboard.press('j');
  await expect(page.locator('article:focus')).toHaveCount(1);
  await page.keyboard.press('x');
  await expect(page.getByText('1 selected')).toBeVisible();
  await page.getByRole('link', { name: 'Sources', exact: true }).click();
  await card.getByRole('button', { name: 'one.db', exact: true }).click();
  const remove = async (): Promise<void> => {
    await page.getByRole('button', { name: 'Remove source' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText(/1\d\d messages|[89]\d messages/);
    await expect(dialog).toContainText('1 selected record');
    await dialog.getByRole('button', { name: 'Remove source' }).click();
    await expect(card).toHaveCount(0);
  };
  await remove();
  await page.reload();
  await page.getByRole('button', { name: 'Bring back one.db' }).click();
  await expect(card).toContainText('80 live');
  // The same evidence meets what was removed, even for good; other evidence never gets its number.
  await remove();
  await page.getByRole('link', { name: 'Ombudsman, to the casebook' }).click();
  await page.getByRole('link', { name: 'Removed' }).click();
  await expect(page.getByRole('region', { name: 'Removed sources' })).toHaveCount(0);
  await addFile(page, 'other.db', store(50));
  await page.getByRole('button', { name: 'Examine other.db' }).click();
  await expect(page.getByRole('article', { name: 'Source other.db' })).toContainText('40 live');
  await addFile(page, 'again.db', store(100));
  await page.getByRole('button', { name: 'Examine again.db' }).click();
  await expect(page.getByRole('article', { name: 'Source again.db' })).toContainText('80 live');
  await expect(page.getByText('1 selected')).toBeVisible();
});

test('a password that was typed is used whichever button begins', async ({ page }) => {
  const sealed = sealStore({
    name: 'kept.db',
    store: store(50),
    key: { password: 'tide', rounds: 600_000 }
  });
  await newCase(page, 'Typed');
  await page.getByTestId('files').setInputFiles(temporaryFile('kept.sealed', sealed));
  const card = page.getByRole('article', { name: 'Source kept.sealed' });
  await card.getByLabel(/^Password/).fill('tide');
  await page.getByRole('button', { name: 'Examine kept.sealed' }).click();
  await expect(card).toContainText('40 live');
});

test('where the demo’s evidence was not built its button says what to do', async ({ page }) => {
  await page.route('**/demo/case.json', (route) => route.fulfill({ status: 404, body: 'no' }));
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo case' }).click();
  await expect(page.getByRole('alert')).toContainText('was not built');
  await page.unroute('**/demo/case.json');
  await page.getByRole('button', { name: 'Open the demo case' }).click();
  await page.waitForURL('**/sources');
});

test('a store that is called like a log offers its readings, and one press reads it', async ({
  page
}) => {
  await newCase(page, 'Notes of the yard');
  const bytes = makeDatabase((db) => {
    db.run(
      'CREATE TABLE log(id INTEGER PRIMARY KEY, level INTEGER, tag TEXT, at INTEGER, entry TEXT)'
    );
    for (let i = 0; i < 60; i++)
      db.run('INSERT INTO log VALUES(?,?,?,?,?)', [
        i + 1,
        i % 3,
        `w${i % 4}`,
        Date.UTC(2026, 4, 3, 8, i),
        `${WORDS[i % 7]} ${WORDS[(i * 3) % 11]} ${WORDS[(i * 5 + 2) % 13]} the ${WORDS[(i + 4) % 9]}`
      ]);
  });
  await addFile(page, 'yard.db', Buffer.from(bytes));
  await page.getByRole('button', { name: 'Examine yard.db' }).click();
  const card = page.getByRole('article', { name: 'Source yard.db' });
  await card.getByText('1 further database').click();
  const reading = card.getByRole('list', { name: /Tables of .* that may hold messages/ });
  await expect(reading).toContainText('are those of a log of an app');
  await expect(reading).toContainText('3 May 2026');
  await reading.getByRole('link', { name: 'Check this reading' }).click();
  await expect(page.getByRole('heading', { name: 'Profile desk' })).toBeVisible();
  await expect(page.getByLabel('Table of messages')).toHaveValue('log');
  await page.getByRole('button', { name: 'Save and examine' }).click();
  await expect(card).toContainText('60 live');
});
