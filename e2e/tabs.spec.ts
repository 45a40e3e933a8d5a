import { expect, test } from './prepared';
import { failOnErrors } from './helpers';

test('one tab takes sources and runs passes, others read, and the next one takes over', async ({
  demo: page
}) => {
  const context = page.context();
  const second = await context.newPage();
  failOnErrors(second);
  await second.goto(page.url());
  const notice = second.getByText('This case is also open in another tab');
  await expect(notice).toBeVisible();
  await expect(page.getByText('This case is also open in another tab')).toHaveCount(0);
  await second.getByRole('button', { name: 'Examine', exact: true }).click();
  await expect(second.getByRole('alert')).toContainText('Do it there, or close that tab.');
  await second.getByRole('button', { name: 'Close', exact: true }).click();
  await second.getByTestId('files').setInputFiles({
    name: 'note.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('Nothing of note.')
  });
  await expect(second.getByRole('alert')).toContainText('Another tab has this case open');
  await expect(second.getByRole('article', { name: /Source note/ })).toHaveCount(0);
  await page.close();
  await expect(notice).toHaveCount(0);
  await second.getByRole('button', { name: 'Close', exact: true }).click();
  await second.getByRole('button', { name: 'Examine', exact: true }).click();
  const strip = second.getByRole('region', { name: 'Examination in progress' });
  await expect(strip).toHaveCount(0);
  await expect(second.getByRole('alert')).toHaveCount(0);
});
