import { berthsInPostgres, publishBerths } from './support/berths.ts';
import { choose, expect, pageOf, paneOf, test } from './support/people.ts';

/* Numbers have the marks that their reader is used to, wherever they are written or typed. */

test('somebody who writes 1.234,5 reads and types numbers so, and nobody else does', async ({
  browser,
  analyst,
}) => {
  const berths = await berthsInPostgres();
  const address = await publishBerths(analyst, berths);
  const [page, other] = [await pageOf(browser, 'supervisor'), await pageOf(browser, 'reader')];
  const row = (each: typeof page) => paneOf(each, 'All berths').locator('tbody tr').first();
  const place = page.getByRole('dialog', { name: /^Asked of / });
  const change = async (fee: string): Promise<void> => {
    await row(page).hover();
    await row(page)
      .getByRole('button', { name: /^Change asked of / })
      .click();
    await place.getByLabel('Asked').fill(fee);
    await place.getByRole('button', { name: 'Change it' }).click();
  };
  for (const each of [page, other]) await each.goto(address);
  await change('1234.5');
  for (const each of [page, other]) await expect(row(each)).toContainText('1,234.5');

  await page.getByRole('button', { name: /^You: / }).press('Enter');
  await expect(page.getByRole('menuitem', { name: 'Your account' })).toBeFocused();
  await page.getByRole('menuitemradio', { name: '1.234,5' }).click();
  await expect(row(page)).toContainText('1.234,5');
  // It is so from the server too, for this browser and no other.
  await page.reload();
  await expect(row(page)).toContainText('1.234,5');
  await other.reload();
  await expect(row(other)).toContainText('1,234.5');

  await change('1.5');
  await expect(place.getByRole('alert')).toContainText(
    '“1.5” is not a number; write decimals behind a comma',
  );
  await place.getByLabel('Asked').fill('17,25');
  await place.getByRole('button', { name: 'Change it' }).click();
  await expect(row(page)).toContainText('17,25');
  await expect(row(other)).toContainText('17.25');

  await page.getByRole('button', { name: '… and where' }).click();
  await choose(page.getByLabel('Where', { exact: true }), 'asked');
  await page.getByLabel('Value').fill('17,25');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'asked is at least 17,25', exact: true })).toBeVisible();
  await expect(page).toHaveURL(/~atleast\.17\.25/);
  await expect(row(page)).toContainText('17,25');
  for (const each of [page, other]) await each.context().close();
  await berths.end();
});
