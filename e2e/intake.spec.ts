import AxeBuilder from '@axe-core/playwright';
import { expect, test } from './prepared';
import { newCase } from './helpers';

test('the plan is redrawn with each answer, contradictions get a sentence, and all is kept', async ({
  page
}) => {
  await newCase(page, 'Lost thread');
  await page.keyboard.press('g');
  await page.keyboard.press('i');
  await page.waitForURL('**/intake');
  await expect(page.getByText('Add the copies that exist')).toBeVisible();
  await page.getByRole('button', { name: 'messages', exact: true }).press('Enter');
  await page.getByLabel('Sent from').fill('2026-03-09');
  await page.getByLabel('to', { exact: true }).first().fill('2026-03-14');
  await page.getByLabel('Deleted from').fill('2026-03-29');
  await page.getByLabel('to', { exact: true }).nth(1).fill('2026-04-01');
  await page.getByLabel('Kind of copy').selectOption({ label: 'backup on a computer' });
  await page.getByRole('button', { name: 'Add a copy' }).press('Enter');
  const plan = page.getByRole('main', { name: 'Route plan' });
  await expect(plan.getByRole('listitem').first()).toContainText('may contain');
  await page.getByLabel('Made on').fill('2026-03-15');
  await page.keyboard.press('Tab');
  await expect(plan.getByRole('listitem').first()).toContainText('contains');
  await page.getByLabel('Kind of copy').selectOption({ label: 'snapshot in a cloud account' });
  await page.getByRole('button', { name: 'Add a copy' }).click();
  await page.getByLabel('Made on').fill('2026-04-05');
  await page.keyboard.press('Tab');
  const routes = plan.getByRole('list').first().getByRole('listitem');
  await expect(routes).toHaveCount(2);
  await expect(routes.nth(1)).toContainText('too late');
  await routes.first().getByLabel('add it as a source').check();
  await page.getByLabel('Sent from').fill('2026-05-01');
  await page.keyboard.press('Tab');
  await expect(page.getByText(/ends before it begins: the days were turned around/)).toBeVisible();
  await page.getByLabel('Sent from').fill('03/09/2026');
  await page.keyboard.press('Tab');
  await expect(page.getByText('Write the day like 12 Mar 2026.')).toBeVisible();
  await page.getByRole('button', { name: 'Calendar: First day on which it was sent' }).click();
  await page.getByRole('button', { name: /previous month/i }).click();
  await page.keyboard.press('Escape');
  await page.getByLabel('Sent from').fill('9 March 2026');
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('Sent from')).toHaveValue('9 Mar 2026');
  await page.reload();
  await expect(routes.first().getByLabel('add it as a source')).toBeChecked();
  await expect(routes.first()).toContainText('contains');
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await expect(page.getByRole('row').filter({ hasText: 'intake changed' }).first()).toBeVisible();
});

test('the demo comes with its intake, and says what was really found', async ({ demo: page }) => {
  await page.getByRole('link', { name: 'Intake', exact: true }).click();
  const phone = page.getByRole('listitem').filter({ hasText: 'Search the phone’s freed space' });
  await expect(phone).toContainText('may contain');
  await expect(phone).toContainText(
    /Actually found: [\d,]+ messages live, [1-9]\d* deleted or changed/
  );
  for (const scheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme: scheme });
    const { violations } = await new AxeBuilder({ page }).analyze();
    const serious = violations.filter(
      ({ impact }) => impact === 'serious' || impact === 'critical'
    );
    expect(serious.map(({ id, nodes }) => `${id} ${nodes[0]?.html}`)).toEqual([]);
  }
});
