import AxeBuilder from '@axe-core/playwright';
import { choose, expect, pageOf, paneOf, test } from './support/people.ts';

/* A dashboard is shown to whoever has a link, without signing in. */

const allow = 'Analysts may make links that show a dashboard to everybody, without signing in';

test('a dashboard is opened to everybody by a link, in its scope and no further, until that is closed', async ({
  analyst,
  browser,
}) => {
  const dashboard = '/desk/skerry-sound/requisitions?state=open';
  await analyst.goto(dashboard);
  await analyst.getByRole('button', { name: 'On paper' }).click();
  await analyst.getByRole('link', { name: 'Open it to everybody by a link …' }).click();
  await expect(analyst.getByRole('main')).toContainText(
    'no administrator has allowed it for the desk Skerry Sound yet',
  );
  await expect(analyst.getByRole('button', { name: 'Make the link' })).toHaveCount(0);

  const admin = await pageOf(browser, 'admin');
  const settings = '/administration/desks/skerry-sound';
  await admin.goto(settings);
  await admin.getByLabel(allow).check();
  await admin.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(admin.getByText('Saved', { exact: true })).toBeVisible();

  await analyst.reload();
  await expect(analyst.getByText('In the scope that the page has now.')).toBeVisible();
  await analyst.getByLabel('For whom it is').fill('The yard at Norrick');
  await choose(analyst.getByLabel('The link works for'), '30 days');
  await analyst.getByRole('button', { name: 'Make the link' }).click();
  const told = analyst.getByRole('status').filter({ hasText: '/open/' });
  const address = (await told.getByText('/open/').textContent()) ?? '';

  const anybody = await pageOf(browser, null);
  const answer = await anybody.goto(address);
  expect(answer?.headers()['x-robots-tag']).toContain('noindex');
  await expect(anybody.getByRole('heading', { name: 'Requisitions', level: 1 })).toBeVisible();
  await expect(anybody.getByRole('main')).toContainText('All vessels, Open');
  const list = paneOf(anybody, 'Requisitions, latest first');
  await expect(list.locator('tbody tr').first()).toContainText('Open');
  await expect(list).not.toContainText('Approved');
  const { violations } = await new AxeBuilder({ page: anybody }).setLegacyMode(true).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
  // Another scope than that of the link is not to be had by its address.
  await anybody.goto(`${address}?state=approved`);
  await expect(list.locator('tbody tr').first()).toContainText('Open');
  await expect(list).not.toContainText('Approved');
  // Nothing leads further, and nothing else is answered to whoever has only the link.
  await expect(anybody.locator(':is(a, button, input):not([tabindex="-1"])')).toHaveText([
    'Skip to the content',
  ]);
  await expect(anybody.getByRole('searchbox')).toHaveCount(0);
  await expect(paneOf(anybody, 'Raise a requisition')).toHaveCount(0);
  // Who listens to the page hears its numbers.
  await expect(paneOf(anybody, 'To be approved or refused').getByRole('link')).toContainText(/\d/);
  const asked = await anybody.context().request.get('/desk/skerry-sound/requisitions', { maxRedirects: 0 });
  expect(asked.status()).toBe(302);

  const open = analyst.getByRole('region', { name: 'Links that are open' });
  // One pane stands within pages of the sites that its link names, and of no others.
  expect(answer?.headers()['content-security-policy']).toContain("frame-ancestors 'none'");
  await analyst.getByLabel('For whom it is').fill('Intranet');
  await choose(analyst.getByLabel('It shows'), 'only “By vessel and state”');
  await analyst
    .getByLabel('Sites that may show it within pages of theirs')
    .fill('https://yard.example/board');
  await analyst.getByRole('button', { name: 'Make the link' }).click();
  await expect(analyst.getByText('Write each site as https://intranet.example')).toBeVisible();
  await analyst.getByLabel('Sites that may show it within pages of theirs').fill('https://yard.example');
  await analyst.getByRole('button', { name: 'Make the link' }).click();
  await expect(open).toContainText('within pages of https://yard.example');
  const framed = (await told.getByText('/open/').textContent()) ?? '';
  const within = await anybody.goto(framed);
  expect(within?.headers()['content-security-policy']).toContain('frame-ancestors https://yard.example');
  await expect(anybody.getByRole('heading', { name: 'By vessel and state' })).toBeVisible();
  await expect(paneOf(anybody, 'Requisitions, latest first')).toHaveCount(0);

  for (const left of [1, 0]) {
    await open.getByRole('button', { name: 'Close it' }).first().click();
    await analyst.getByRole('dialog').getByRole('button', { name: 'Remove', exact: true }).click();
    await expect(open.getByRole('button', { name: 'Close it' })).toHaveCount(left);
  }
  await expect(open).toContainText('None.');
  await anybody.goto(address);
  await expect(anybody.getByRole('heading', { name: 'There is no such page' })).toBeVisible();
  await anybody.context().close();

  await admin.goto(settings);
  await admin.getByLabel(allow).uncheck();
  await admin.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(admin.getByText('Saved', { exact: true })).toBeVisible();
  await admin.context().close();
});
