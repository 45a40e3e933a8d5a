import { expect, test } from '@playwright/test';
import { spawn } from 'node:child_process';
import { newCase } from './helpers';

const PORT = '4194';
const BASE = `http://127.0.0.1:${PORT}`;

test('once loaded, it opens and works when its server is gone', async ({ browser }) => {
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    env: { ...process.env, HOST: '127.0.0.1', PORT }
  });
  const context = await browser.newContext({ baseURL: BASE, serviceWorkers: 'allow' });
  try {
    await expect
      .poll(() =>
        fetch(BASE).then(
          ({ ok }) => ok,
          () => false
        )
      )
      .toBe(true);
    const page = await context.newPage();
    const store = await (await fetch(`${BASE}/demo/phone-telephony.db`)).arrayBuffer();
    await newCase(page, 'Without a server');
    await page.evaluate(async () => {
      await navigator.serviceWorker.ready;
    });
    const { icons } = (await (await fetch(`${BASE}/manifest.webmanifest`)).json()) as {
      icons: unknown[];
    };
    expect(icons.length).toBeGreaterThan(0);

    server.kill();
    await expect
      .poll(() =>
        fetch(BASE).then(
          () => true,
          () => false
        )
      )
      .toBe(false);
    await page.reload();
    await page.getByTestId('files').setInputFiles({
      name: 'phone.db',
      mimeType: 'application/octet-stream',
      buffer: Buffer.from(store)
    });
    await page.getByRole('button', { name: 'Examine phone.db' }).click();
    await expect(page.getByRole('article', { name: /Source phone.db/ })).toContainText(/recovered/);
    await page.goto('/');
    await page.getByRole('link', { name: 'Without a server' }).click();
    await page.getByRole('link', { name: 'Read', exact: true }).click();
    await expect(page.getByRole('article').first()).toBeVisible();
    await page.goto(page.url().replace(/read.*/, 'bench'));
    await expect(page.getByRole('alert')).toContainText('The bench cannot be reached');
  } finally {
    server.kill();
    await context.close();
  }
});
