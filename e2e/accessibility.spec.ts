import AxeBuilder from '@axe-core/playwright';
import { openRead } from './helpers';
import { expect, test } from './prepared';

/** All rules are tried by day; at night only colours are others. */
const THEMES = [
  { scheme: 'light', rules: null },
  { scheme: 'dark', rules: ['color-contrast', 'link-in-text-block'] }
] as const;

for (const { scheme, rules } of THEMES) {
  test(`no serious accessibility findings, ${scheme}`, async ({ demo: page, page: fresh }) => {
    await page.emulateMedia({ colorScheme: scheme });
    await fresh.emulateMedia({ colorScheme: scheme });
    const check = async (where: string, on = page): Promise<void> => {
      const axe = new AxeBuilder({ page: on });
      const { violations } = await (rules ? axe.withRules([...rules]) : axe).analyze();
      const serious = violations.filter(
        ({ impact }) => impact === 'serious' || impact === 'critical'
      );
      const told = serious.map(
        ({ id, nodes }) =>
          `${where}: ${id} ${nodes
            .map((n) => n.html)
            .slice(0, 3)
            .join(' ')}`
      );
      expect(told).toEqual([]);
    };
    await fresh.goto('/');
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
}
