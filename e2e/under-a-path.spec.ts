import { demoPassword } from '../demo/people.ts';
import { freePort } from '../scripts/cluster.mjs';
import { installation } from './support/installation.ts';
import { databaseServer, expect, livePage, paneOf, test } from './support/people.ts';
import { dataFolder, run } from './support/started.ts';

/* An installation that shares its host with others: all of its addresses begin with a path. */

test('under a path of its host, pages, their parts, forms, files and links all stay under it', async ({
  browser,
}) => {
  const port = await freePort();
  const address = `http://127.0.0.1:${port}/glass`;
  const { database, key } = installation();
  const served = run('serve', [], {
    NODE_ENV: 'production',
    PORT: String(port),
    SLATE_WEB: '1',
    SLATE_DATABASE: database,
    SLATE_KEY: key,
    SLATE_CACHE: dataFolder(),
    SLATE_DEMO: '',
    SLATE_OUTGOING: databaseServer().host,
    SLATE_ADDRESS: address,
  });
  await expect.poll(served.output).toContain(`is ready at ${address}`);
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    reducedMotion: 'reduce',
  });
  const page = await livePage(context);
  const [astray, failed, errors]: string[][] = [[], [], []];
  page.on('pageerror', ({ message }) => errors?.push(message));
  context.on('response', (answer) => {
    const { pathname } = new URL(answer.url());
    if (!pathname.startsWith('/glass')) astray?.push(pathname);
    if (answer.status() >= 400) failed?.push(`${answer.status()} ${pathname}`);
  });

  await page.goto(`${address}/desk/skerry-sound/vessel-upkeep?priority=high`);
  await page.getByLabel('E-mail address').fill('analyst@skerry.example');
  await page.getByLabel('Password').fill(demoPassword);
  await page.getByRole('button', { name: 'Sign in' }).click();
  // One is led to where one was going.
  await expect(page).toHaveURL(`${address}/desk/skerry-sound/vessel-upkeep?priority=high`);
  const orders = paneOf(page, 'Unfinished orders, longest due first');
  await expect(orders).toContainText(/of \d+ work orders/);
  await expect(paneOf(page, 'Opened, month by month').locator('svg').first()).toBeVisible();
  await page
    .locator('.slot')
    .filter({ hasText: /^High$/ })
    .first()
    .click();
  await page.getByRole('dialog').getByRole('checkbox', { checked: true }).click();
  await expect(page).toHaveURL(`${address}/desk/skerry-sound/vessel-upkeep?priority=~any`);
  await page.keyboard.press('Escape');
  await paneOf(page, 'Overdue')
    .getByRole('link', { name: /open the records/ })
    .click();
  const opened = page.getByRole('dialog', { name: 'Overdue' });
  await expect(opened.locator('tbody tr').first()).toBeVisible();
  await page.keyboard.press('Escape');
  await orders.getByRole('button', { name: /^Download/ }).click();
  const csv = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  expect(new URL((await csv).url()).pathname).toMatch(/^\/glass\/view\//);
  await page.keyboard.press('Escape');

  await page.getByRole('link', { name: 'Workroom', exact: true }).click();
  await page.getByRole('link', { name: 'Back to the desk', exact: true }).click();
  await expect(page).toHaveURL(`${address}/desk/skerry-sound/morning-brief`);
  await page.getByRole('button', { name: /^You: / }).click();
  await page.getByRole('menuitemradio', { name: 'Night' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'night');
  await page.getByRole('button', { name: /^You: / }).click();
  await page.getByRole('menuitem', { name: 'Guide' }).click();
  await page.getByRole('navigation', { name: 'Chapters' }).getByRole('link').nth(1).click();
  await expect(page.getByRole('main').getByRole('img').first()).toBeVisible();
  await page.goto(`${address}/account`);
  await page.getByLabel('What others see').fill('Magnus Drever');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: /^You: / }).click();
  await page.getByRole('menuitem', { name: 'Sign out' }).click();
  await expect(page).toHaveURL(new RegExp(`^${address}/sign-in`));
  expect({ astray, failed, errors }).toEqual({ astray: [], failed: [], errors: [] });

  // Programs are told where it is.
  const described = await context.request.get(`${address}/results/open-api.json`);
  expect((await described.json()).servers).toEqual([{ url: '/glass' }]);
  // Whoever asks for the host alone is led there.
  expect((await context.request.get(`http://127.0.0.1:${port}/`)).url()).toContain('/glass/');
  await context.close();
  served.process.kill('SIGTERM');
  expect(await served.ended).toBe(0);
});
