import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { openRead } from './helpers';
import { expect, test } from './prepared';

/** All rules are tried by day; at night only colours are others. */
const AT_NIGHT = ['color-contrast', 'link-in-text-block'];

/** What is seriously wrong with a page as it stands; of all else that the rules look at nothing is gathered. */
async function findings(page: Page, where: string, rules: string[] | null): Promise<string[]> {
  const axe = new AxeBuilder({ page }).options({ resultTypes: ['violations'] });
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => {
      const some = nodes.slice(0, 3).map((node) => node.html);
      return `${where}: ${id} ${some.join(' ')}`;
    });
}

test('no serious accessibility findings, by day and by night', async ({
  demo: page,
  page: fresh
}) => {
  const check = async (where: string, on = page): Promise<void> => {
    expect(await findings(on, where, null)).toEqual([]);
    await on.emulateMedia({ colorScheme: 'dark' });
    expect(await findings(on, `${where}, dark`, AT_NIGHT)).toEqual([]);
    await on.emulateMedia({ colorScheme: 'light' });
  };
  await fresh.emulateMedia({ colorScheme: 'light' });
  await page.emulateMedia({ colorScheme: 'light' });
  await fresh.goto('/');
  await fresh.getByRole('heading', { level: 1 }).waitFor();
  await check('empty casebook', fresh);
  await check('sources');
  await openRead(page, /Halvard Nystuen/);
  await page
    .getByRole('group', { name: 'States shown' })
    .getByRole('button', { name: /^live/ })
    .click();
  await page
    .getByRole('article')
    .first()
    .getByRole('button', { name: /Select line/ })
    .click();
  await check('read');
  await page.getByLabel('Search this case').fill('receipt');
  await page.getByRole('region', { name: 'What the view is narrowed to' }).waitFor();
  await check('search');
  await page.getByRole('radio', { name: 'as a list' }).click();
  const hits = page.getByRole('listbox', { name: 'All hits' });
  await hits.getByRole('option').first().waitFor();
  await check('hits');
  await page.getByRole('radio', { name: 'in context' }).click();
  await page.getByLabel('Search this case').fill('');
  for (const name of ['People', 'Media', 'Files']) {
    const facet = page.getByRole('tablist', { name: 'Facets' });
    await facet.getByRole('tab', { name: new RegExp(`^${name}`) }).click();
    await page.waitForTimeout(600);
    await check(name);
  }
  await page.getByRole('link', { name: 'Summary', exact: true }).click();
  await page.getByRole('heading', { name: 'Gaps' }).waitFor();
  await check('summary');
  await page.getByRole('link', { name: 'Produce', exact: true }).click();
  await page.locator('canvas[data-page]').waitFor();
  await check('produce');
  await page.getByRole('link', { name: 'Log', exact: true }).click();
  await page.getByText('The chain holds.').waitFor();
  await check('log');
  await page.getByRole('link', { name: 'Sources', exact: true }).click();
  await page.getByRole('link', { name: 'Copy on the bench' }).click();
  await page.getByRole('heading', { name: 'How deep' }).waitFor();
  await check('bench');
  await page.goto('/');
  await page.getByRole('heading', { level: 1 }).waitFor();
  await check('casebook');
});
