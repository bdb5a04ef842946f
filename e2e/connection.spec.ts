import { unique } from './support/make.ts';
import { expect, pageOf, test } from './support/people.ts';

/* The connection to the server is lost for a while. */

test('what is sent while the server cannot be reached is told, nothing typed is lost, and what is asked for comes once it can be', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'admin');
  await page.goto('/administration/desks');
  await page.getByRole('link', { name: 'Groups', exact: true }).click();
  await page.getByRole('button', { name: 'Add a group' }).click();
  const [name, said] = [unique('Night watch'), page.getByRole('status', { name: 'The connection' })];
  await page.getByLabel('Name of the group').fill(name);
  await page.context().setOffline(true);
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(said).toContainText('what you sent has most likely not arrived');
  await expect(page.getByLabel('Name of the group')).toHaveValue(name);
  await page.context().setOffline(false);
  await said.getByRole('button', { name: 'Close' }).click();
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByRole('button', { name: `Change ${name}` })).toHaveCount(1);
  await expect(said).toBeEmpty();

  // Where one is going waits as well.
  await page.context().setOffline(true);
  await page.getByRole('link', { name: 'Desks', exact: true }).click();
  await expect(said).toContainText('This server cannot be reached just now.');
  await expect(page.getByRole('button', { name: `Change ${name}` })).toBeVisible();
  await page.context().setOffline(false);
  await expect(page.getByRole('heading', { level: 1, name: 'Desks' })).toBeVisible();
  await expect(said).toBeEmpty();
  await page.context().close();
});
