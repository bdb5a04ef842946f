import { installation } from './support/installation.ts';
import { expect, livePage, test } from './support/people.ts';

/* People sign in where the staff of the ferry line do. */

test('staff sign in where they always do, are led to where they were going, and are what their groups are', async ({
  browser,
}) => {
  const context = await browser.newContext({ baseURL: installation().url, reducedMotion: 'reduce' });
  const page = await livePage(context);
  await page.goto('/desk/skerry-sound/vessel-upkeep');
  await page.getByRole('link', { name: 'Sign in with Skerry staff' }).click();
  await page.getByRole('link', { name: 'Wilma Isbister' }).click();
  await expect(page.getByRole('alert')).toContainText('You have no account here yet');
  await page.goto('/desk/skerry-sound/vessel-upkeep');
  await page.getByRole('link', { name: 'Sign in with Skerry staff' }).click();
  await page.getByRole('link', { name: 'Cancel' }).click();
  await expect(page.getByRole('alert')).toContainText('You were not signed in there');
  await page.goto('/desk/skerry-sound/vessel-upkeep');
  await page.getByRole('link', { name: 'Sign in with Skerry staff' }).click();
  await page.getByRole('link', { name: 'Una Rendall' }).click();
  await expect(page).toHaveURL(/\/desk\/skerry-sound\/vessel-upkeep$/);
  // She is of the yard, which changes records.
  await expect(page.getByRole('toolbar', { name: 'What can be done to work orders' })).toBeVisible();
  await page.goto('/sign-in/provider/done?code=x&state=y');
  await expect(page).toHaveURL(/\/desk\//);
  await context.close();
});
