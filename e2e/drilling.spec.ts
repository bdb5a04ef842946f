import { digits, expect, onlyWith, pageOf, paneOf, test } from './support/people.ts';

const brief = '/desk/skerry-sound/morning-brief';

test('a card opens the records behind it, and they count to it', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const number = paneOf(page, 'Sailings today').getByRole('link', { name: /open the records/ });
  const shown = digits((await number.textContent()) ?? '');
  await number.click();
  const sheet = page.getByRole('dialog');
  await expect(sheet).toContainText(`1 – 25 of ${shown} sailings`);
  const nameOf = async (row: number): Promise<string> =>
    (await sheet
      .getByRole('row')
      .nth(row)
      .getByText(/^SK-\d+$/)
      .first()
      .textContent()) ?? '';
  const [first, second] = [await nameOf(1), await nameOf(2)];
  await sheet.getByRole('row').nth(1).click();
  const trail = sheet.getByRole('navigation', { name: 'Trail' });
  await expect(trail).toContainText(/Morning brief.*Sailings today.*SK-\d+/);
  await expect(trail).toContainText(first);
  // One goes on to the next record of the list, and comes back to the list from each.
  await expect(sheet.getByRole('button', { name: 'The previous record (p)' })).toBeDisabled();
  await page.keyboard.press('n');
  await expect(trail).toContainText(new RegExp(`Morning brief.*Sailings today.*${second}`));
  await page.keyboard.press('p');
  await expect(trail).toContainText(new RegExp(`Morning brief.*Sailings today.*${first}`));
  await sheet.getByRole('button', { name: 'The next record (n)' }).click();
  await expect(trail).toContainText(new RegExp(`Morning brief.*Sailings today.*${second}`));
  await page.keyboard.press('Escape');
  await expect(sheet).toContainText(`1 – 25 of ${shown} sailings`);
  await page.keyboard.press('Escape');
  await expect(sheet).toHaveCount(0);
  await expect(number).toBeFocused();
  // What is opened over the whole page stands so in the address.
  await number.click();
  await sheet.getByRole('button', { name: 'Over the whole page' }).click();
  const beside = sheet.getByRole('button', { name: 'Beside the page again' });
  await expect(beside).toBeVisible();
  await page.reload();
  await beside.click();
  await expect(sheet.getByRole('button', { name: 'Over the whole page' })).toBeVisible();
  // Whoever comes by the address of a record goes on from it too.
  await sheet.getByRole('row').nth(2).click();
  await expect(trail).toContainText(second);
  await page.reload();
  await sheet.getByRole('button', { name: 'The previous record (p)' }).click();
  await expect(trail).toContainText(first);
  await page.keyboard.press('n');
  await expect(trail).toContainText(second);
  await page.goBack();
  await page.context().close();
});

test('what is drilled into is as it was left when one comes back to it, and so is the keyboard', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const number = paneOf(page, 'In a sentence').getByRole('link', { name: 'weather' });
  await number.focus();
  // What comes anew leaves the keyboard where it is.
  const asked = page.waitForResponse(/\/panes\?/);
  await page.keyboard.press('r');
  await asked;
  await expect(page.locator('[aria-busy="true"]')).toHaveCount(0);
  await expect(number).toBeFocused();
  await page.keyboard.press('Enter');
  const sheet = page.getByRole('dialog');
  await sheet.getByLabel('Search sailings').fill('Skerryhaven');
  await sheet.getByRole('columnheader', { name: 'Vessel' }).getByRole('button').press('Enter');
  const found = sheet.getByRole('row').filter({ hasText: 'Skerryhaven' });
  await expect(found.nth(1)).toBeVisible();
  await expect(sheet.getByRole('row').filter({ hasNotText: 'Skerryhaven' })).toHaveCount(1);
  await found.first().focus();
  await page.keyboard.press('ArrowDown');
  await expect(found.nth(1)).toBeFocused();
  const [row = ''] = await found.nth(1).allTextContents();
  await page.keyboard.press('Enter');
  await expect(sheet.getByRole('heading', { name: /^Sailing SK-/ })).toBeVisible();
  await expect(sheet.getByRole('region', { name: /SK-/ })).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(sheet.getByLabel('Search sailings')).toHaveValue('Skerryhaven');
  await expect(sheet.getByRole('columnheader', { name: 'Vessel' })).toHaveAttribute('aria-sort', 'ascending');
  await expect(found.nth(1)).toBeFocused();
  await expect(found.nth(1)).toHaveText(row);
  await page.keyboard.press('Escape');
  await expect(sheet).toHaveCount(0);
  await expect(number).toBeFocused();
  await page.context().close();
});

test('a cause picked on a chart narrows the other panes, and its records add up to the bar', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const chart = paneOf(page, 'Why they were late');
  await chart.hover();
  await chart.getByRole('button', { name: 'Show as a table' }).click();
  const row = chart.getByRole('row').filter({ hasText: 'tide' });
  const bar = digits(await row.getByRole('cell').textContent());
  // What fits on one page says how many there are, and not of how many.
  const counted = new RegExp(`(^|[^\\d,])${bar} sailings`);
  await row.getByRole('button', { name: 'tide' }).click();
  await expect(page.getByRole('region', { name: 'What this page shows' })).toContainText(
    'looking at cause tide',
  );
  await expect(paneOf(page, 'Late sailings, latest first')).toContainText(counted);
  // The chart it was picked in keeps the others in view.
  await expect(chart.getByRole('row').filter({ hasText: 'weather' })).toBeVisible();
  await row.getByRole('cell').getByRole('button').click();
  await expect(page.getByRole('dialog', { name: 'tide' })).toContainText(counted);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('region', { name: 'What this page shows' })).not.toContainText('looking at');
  await page.context().close();
});

test('a mark clicked in the drawing is picked', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  await paneOf(page, 'Why they were late').locator('.apexcharts-bar-area').first().click();
  await expect(page.getByRole('region', { name: 'What this page shows' })).toContainText('looking at cause');
  await expect(
    paneOf(page, 'Why they were late').getByRole('button', { name: 'Records behind' }),
  ).toBeVisible();
  await page.context().close();
});

test('a sailing picked by keyboard fills the detail and its incidents; nothing picked says choose one', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(`${brief}?departing=~any`);
  await expect(paneOf(page, 'The sailing')).toContainText(
    'Choose a sailing in “Late sailings, latest first”.',
  );
  await expect(paneOf(page, 'Its incidents')).toContainText(
    'Choose a sailing in “Late sailings, latest first”.',
  );
  const table = paneOf(page, 'Late sailings, latest first');
  await table.getByRole('searchbox').fill('weather');
  await onlyWith(table, 'weather');
  const first = table.getByRole('row').nth(1);
  await first.focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  const reference = await table.getByRole('row').nth(2).getByRole('cell').first().textContent();
  await expect(paneOf(page, 'The sailing')).toContainText(reference ?? 'SK-');
  await expect(paneOf(page, 'Its incidents')).not.toContainText(
    'Choose a sailing in “Late sailings, latest first”.',
  );
  await page.keyboard.press('Escape');
  await expect(paneOf(page, 'The sailing')).toContainText(
    'Choose a sailing in “Late sailings, latest first”.',
  );
  await page.context().close();
});
