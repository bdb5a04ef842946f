import { unique } from './support/make.ts';
import { expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/* Records of a list, opened one after the other. */

test('records are gone through one by one, and what is done to one leads to the next', async ({
  browser,
}) => {
  // Orders that nothing else touches.
  const title = unique('Check the moorings');
  const names = [1, 2, 3, 4].map((nth) => `${title} ${nth}`);
  await withDatabase('sound_ops', (client) =>
    client.query(
      `UPDATE work_orders w SET title = $1 || ' ' || nth, status = 'open', done_at = NULL, due_on = date '1999-01-01' + nth::int
       FROM (SELECT id, row_number() OVER (ORDER BY id) AS nth FROM work_orders WHERE status = 'done' ORDER BY id LIMIT 4) AS o
       WHERE w.id = o.id`,
      [title],
    ),
  );
  const page = await pageOf(browser, 'supervisor');
  await page.goto('/desk/skerry-sound/vessel-upkeep');
  const table = paneOf(page, 'Unfinished orders, longest due first');
  const rows = table.locator('tbody tr');
  await table.getByLabel('Search work orders').fill(title);
  await expect(rows).toHaveCount(4);
  const opened = page.locator('[data-drill]');
  const isOpen = (nth: number) => expect(opened.locator('h2').last()).toContainText(names[nth] ?? '');
  await rows.nth(0).focus();
  await page.keyboard.press('Enter');
  await isOpen(0);
  const before = opened.getByRole('button', { name: 'The previous record (p)' });
  await expect(before).toBeDisabled();
  await page.keyboard.press('n');
  await isOpen(1);
  // However quick the keys are.
  for (const key of ['n', 'n']) await page.keyboard.press(key);
  await isOpen(3);
  for (const key of ['p', 'p']) await page.keyboard.press(key);
  await isOpen(1);
  await opened.getByRole('button', { name: 'The next record (n)' }).click();
  await isOpen(2);
  await page.keyboard.press('p');
  await isOpen(1);
  // What is typed is no key.
  await opened.getByRole('button', { name: 'Set done' }).click();
  const asks = page.getByRole('dialog', { name: 'Set done' });
  await page.keyboard.press('n');
  await expect(asks).toBeVisible();
  await isOpen(1);
  await asks.getByRole('button', { name: 'Set done' }).press('Enter');
  await isOpen(2);
  await expect(page.getByText('Set done: 1 work order.')).toBeVisible();
  await expect(rows.filter({ hasText: names[1] ?? '' })).toHaveCount(0);
  // The one that left the list is passed over.
  await page.keyboard.press('p');
  await isOpen(0);
  await page.keyboard.press('n');
  await isOpen(2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rows.filter({ hasText: names[1] ?? '' })).toHaveCount(1);
  await page.context().close();
});
