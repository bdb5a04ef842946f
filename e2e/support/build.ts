import type { Browser, Page } from '@playwright/test';
import { choose, expect, pageOf } from './people.ts';

/* What analysts do at the start of many journeys, as they do it. */

/** Starts a dashboard with nothing on it. */
export async function startDashboard(page: Page, title: string): Promise<void> {
  await page.goto('/workroom/dashboards/new');
  await page.getByLabel('Title').fill(title);
  await page.getByRole('button', { name: 'Start' }).click();
}

/** Publishes the draft on the page, once it has been looked at. */
export async function publishDraft(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await page.getByRole('button', { name: 'Publish now' }).click();
}

/** Publishes the draft on the page for the first time, and opens it as a reader does who finds it by its title. */
export async function publishAndRead(page: Page, browser: Browser, title: string): Promise<Page> {
  await publishDraft(page);
  await expect(page.getByText('Published: version 1')).toBeVisible();
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/');
  await reader.getByRole('link', { name: title }).click();
  return reader;
}

/** Adds a pane to the draft on the page, from a question about a data set: its brief opens. */
export async function addPane(page: Page, dataSet: string, question: RegExp): Promise<void> {
  await page.getByRole('toolbar').getByRole('button', { name: 'Add a pane' }).click();
  await choose(page.getByLabel('About'), dataSet);
  await page.getByRole('button', { name: question }).click();
}
