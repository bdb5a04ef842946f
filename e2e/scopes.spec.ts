import type { Browser, Page } from '@playwright/test';
import { publishDraft } from './support/build.ts';
import { copyOfDashboard, unique } from './support/make.ts';
import { expect, pageOf, paneOf, test } from './support/people.ts';

/** A dashboard of its own, published, with a reader on it. */
async function readDashboard(analyst: Page, browser: Browser) {
  const title = unique('Brief');
  const { address, slug } = await copyOfDashboard('morning-brief', title);
  await analyst.goto(address);
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();
  const path = `/desk/skerry-sound/${slug}`;
  const reader = await pageOf(browser, 'reader');
  await reader.goto(path);
  const line = reader.getByRole('region', { name: 'What this page shows' });
  const menu = reader.getByRole('dialog', { name: 'Saved scopes' });
  return { title, path, reader, line, menu, all: line.getByRole('button', { name: 'all routes' }) };
}

test('a reader names what a page shows, finds it by its name, and has the dashboard open with it', async ({
  analyst,
  browser,
}) => {
  const { title, path, reader, line, menu, all } = await readDashboard(analyst, browser);
  await all.click();
  const values = reader.getByRole('dialog', { name: 'Choose routes' });
  await values.getByRole('checkbox').first().check();
  await reader.keyboard.press('Escape');
  await expect(all).toHaveCount(0);
  const { search } = new URL(reader.url());

  await line.getByRole('button', { name: 'Saved scopes' }).click();
  await expect(menu).toContainText('Nothing is saved yet.');
  await expect(menu.getByRole('checkbox')).toHaveCount(0);
  await menu.getByLabel('Name this scope').fill('My route');
  await menu.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(menu.getByRole('link', { name: 'My route' })).toHaveAttribute('aria-current', 'true');
  await menu.getByRole('button', { name: 'Open with My route', exact: true }).click();
  await expect(menu.getByRole('button', { name: 'No longer open with My route' })).toBeVisible();

  // The desk's menu leads to it so; its own address leads to what the dashboard begins with.
  await reader.goto('/desk/skerry-sound/passage-trace');
  await reader.getByRole('navigation', { name: 'Dashboards' }).getByRole('link', { name: title }).click();
  await expect(paneOf(reader, 'Sailings today')).toContainText(/\d/);
  expect(new URL(reader.url()).search).toBe(search);
  await expect(all).toHaveCount(0);
  await reader.goto(path);
  await expect(all).toBeVisible();
  await reader.keyboard.press('Control+k');
  await reader.getByRole('combobox').fill('my route');
  await reader.getByRole('option', { name: 'My route' }).click();
  await expect(all).toHaveCount(0);
  await reader.context().close();
});

test('a saved scope is its owner’s alone unless it is offered to everybody, and is removed by its owner', async ({
  analyst,
  browser,
}) => {
  const { path, reader, line, menu, all } = await readDashboard(analyst, browser);
  await line.getByRole('button', { name: 'Saved scopes' }).click();
  await menu.getByLabel('Name this scope').fill('My own');
  await menu.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(menu.getByRole('link', { name: 'My own' })).toHaveAttribute('aria-current', 'true');
  await reader.keyboard.press('Escape');

  await analyst.goto(path);
  await analyst.getByRole('button', { name: 'Saved scopes' }).click();
  const theirs = analyst.getByRole('dialog', { name: 'Saved scopes' });
  await expect(theirs).toContainText('Nothing is saved yet.');
  await theirs.getByLabel('Name this scope').fill('As it begins');
  await theirs.getByRole('checkbox', { name: 'Offer it to everybody who reads this' }).check();
  await theirs.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(theirs.getByRole('link', { name: 'As it begins' })).toBeVisible();

  await line.getByRole('button', { name: 'Saved scopes' }).click();
  await expect(menu.getByRole('link', { name: 'As it begins' })).toBeVisible();
  await expect(menu.getByRole('button', { name: 'Remove As it begins' })).toHaveCount(0);
  await menu.getByRole('button', { name: 'Remove My own' }).click();
  await reader
    .getByRole('dialog', { name: 'Remove “My own”' })
    .getByRole('button', { name: 'Remove' })
    .click();
  await expect(menu.getByRole('link', { name: 'My own' })).toHaveCount(0);
  await menu.getByRole('link', { name: 'As it begins' }).click();
  await expect(all).toBeVisible();
  await reader.context().close();
});
