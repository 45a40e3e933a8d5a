import { openDemo, openRead } from '../e2e/helpers';
import { withServed } from '../scripts/lib/served';
await withServed('4193', async (browser, baseURL) => {
  const context = await browser.newContext({ baseURL, viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  page.on('console', (m) => { if (m.type() === 'error') console.log('CONSOLE', m.text().slice(0, 300)); });
  page.on('pageerror', (e) => console.log('PAGEERROR', e.message.slice(0, 300)));
  await openDemo(page);
  await openRead(page, /Halvard Nystuen/);
  await page.getByRole('button', { name: /Choose thread|Choose the thread|thread/i }).first().click();
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  const at = Date.now();
  await page.locator('canvas[data-page]').waitFor({ timeout: 60000 }).catch((e) => console.log('no canvas', e.message.slice(0, 100)));
  console.log('preview after', Date.now() - at);
  await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/prodview.png' });
  const d = Date.now();
  const arriving = page.waitForEvent('download', { timeout: 90000 });
  await page.getByRole('button', { name: 'Produce records' }).click();
  const dl = await arriving.catch((e) => { console.log('no dl'); return null; });
  if (dl) { await dl.saveAs('/tmp/app.zip'); console.log('produced after', Date.now() - d); }
  await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/prodview2.png' });
  console.log(await page.getByRole('alert').allTextContents());
});
