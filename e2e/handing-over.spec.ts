import { readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { type Browser, expect, type Page, test } from '@playwright/test';
import { freePort } from '../scripts/cluster.mjs';
import { publishDraft } from './support/build.ts';
import { livePage } from './support/people.ts';
import { dataFolder, run, type Started, start } from './support/started.ts';

/* An installation from nothing to a dashboard that an invited person reads, and what becomes of it when it is moved. */

const password = 'three words of it';
const passphrase = 'high water at noon';

async function pageAt(browser: Browser, port: number): Promise<Page> {
  const context = await browser.newContext({
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    reducedMotion: 'reduce',
  });
  return livePage(context);
}

const ready = (started: Started) => expect.poll(started.output).toContain('Slate Glass is ready');

async function signedIn(page: Page, email: string): Promise<void> {
  await page.goto('/sign-in');
  await page.getByLabel('E-mail address').fill(email);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).not.toHaveURL(/sign-in/);
}

/** Whoever has the code from the console sets up the installation; what is wrong is said, and all else stays as it was typed. */
async function setUpOnce(page: Page, code: string): Promise<void> {
  await page.goto('/');
  await expect(page).toHaveURL(/set-up/);
  const setUp = page.getByRole('button', { name: 'Set up and sign in' });
  await page.getByLabel('Code from the console').fill('AAAA-BBBB-CCCC');
  await page.getByLabel('Your name').fill('Rona Drever');
  await page.getByLabel('Your e-mail address').fill('rona@harbour.example');
  await page.getByLabel('A password').fill(password);
  await page.getByLabel('Your team’s desk').fill('Harbour office');
  await setUp.click();
  await expect(page.getByText('This is not the code that stands on the console.')).toBeVisible();
  // A password is never sent back to the page.
  await expect(page.getByLabel('Your team’s desk')).toHaveValue('Harbour office');
  await page.getByLabel('Code from the console').fill(code.toLowerCase());
  await page.getByLabel('A password').fill('short');
  await setUp.click();
  await expect(page.getByText('At least 12 characters; several words are easy to remember.')).toBeVisible();
  await page.getByLabel('A password').fill(password);
  await setUp.click();
  await expect(page).toHaveURL(/workroom\/sources\/new/);
}

test('an empty installation is set up, filled, published and read; and put back elsewhere it has the same numbers', async ({
  browser,
}) => {
  const [data, elsewhere] = [dataFolder(), dataFolder()];
  const port = await freePort();
  const first = start(data, port, '', { SLATE_DEMO: 'no' });
  await expect.poll(first.output).toContain('nobody can sign in yet');
  expect(first.output()).not.toContain('skerry');
  const [, code = ''] = /with the code ([A-Z0-9-]+)/.exec(first.output()) ?? [];
  const page = await pageAt(browser, port);
  await setUpOnce(page, code);
  // The door is shut behind the first.
  const other = await pageAt(browser, port);
  await other.goto('/set-up');
  await expect(other).toHaveURL(/sign-in/);
  await expect(other.locator('body')).not.toContainText('This is a demo');
  const late = await other.request.post('/set-up', {
    headers: { Origin: `http://127.0.0.1:${port}` },
    form: { code, name: 'x', email: 'x@x.example', password, desk: 'x', zone: 'UTC' },
    maxRedirects: 0,
  });
  expect(late.status()).toBe(302);
  await other.context().close();

  await page.getByRole('link', { name: 'A file instead' }).click();
  const landings = Array.from(
    { length: 137 },
    (_, at) => `L-${1000 + at};${['Norrick', 'Hesta'][at % 2]};${at * 3}`,
  );
  await page.getByLabel('Choose a file').setInputFiles({
    name: 'landings.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(`landing;terminal;boxes\n${landings.join('\n')}\n`),
  });
  await page.getByLabel('One record is one').fill('landing');
  await page.getByLabel('Several are').fill('landings');
  await page.getByRole('button', { name: 'Accept the file' }).click();
  await expect(page.getByRole('heading', { name: 'Landings' })).toBeVisible();
  await page.getByRole('link', { name: 'Propose a dashboard' }).click();
  await page.getByLabel('Title', { exact: true }).fill('Landings');
  await page.getByRole('button', { name: 'Start' }).click();
  await expect(page.getByText('137').first()).toBeVisible();
  await publishDraft(page);
  await expect(page.getByText('Published: version 1')).toBeVisible();

  await page.goto('/administration/people');
  await page.getByLabel('Name', { exact: true }).fill('Ola Sclater');
  await page.getByLabel('E-mail address').fill('ola@harbour.example');
  await page.getByLabel('Role on Harbour office').click();
  await page.getByRole('option', { name: 'Reader: looks', exact: true }).click();
  await page.getByRole('button', { name: 'Make the link' }).click();
  const link = await page.locator('output').textContent();
  const ola = await pageAt(browser, port);
  await ola.goto(new URL(link ?? '').pathname);
  await ola.getByLabel('A password').fill(password);
  await ola.getByRole('button', { name: 'Join' }).click();
  await expect(ola.getByText('137').first()).toBeVisible();
  await ola.context().close();

  // Backed up while it runs, and put back from the one file into nothing.
  const file = path.join(elsewhere, 'all.slate');
  const backup = run('backup', [file], { SLATE_DATA: data, SLATE_PASSPHRASE: passphrase });
  expect(await backup.ended, backup.output()).toBe(0);
  const definitions = path.join(elsewhere, 'desk.json');
  const pull = run('definitions', ['pull', definitions, '--desk', 'harbour-office'], { SLATE_DATA: data });
  expect(await pull.ended, pull.output()).toBe(0);
  expect(readFileSync(definitions, 'utf8')).toContain('"title": "Landings"');
  first.process.kill('SIGINT');
  expect(await first.ended).toBe(0);

  const wrong = run('restore', [file], { SLATE_DATA: elsewhere, SLATE_PASSPHRASE: 'another passphrase' });
  expect(await wrong.ended).toBe(1);
  expect(wrong.output()).toContain('the passphrase is another');
  const restore = run('restore', [file], { SLATE_DATA: elsewhere, SLATE_PASSPHRASE: passphrase });
  expect(await restore.ended, restore.output()).toBe(0);
  const second = start(elsewhere, port, '', { SLATE_DEMO: 'no' });
  await ready(second);
  expect(second.output()).not.toContain('nobody can sign in yet');
  const again = await pageAt(browser, port);
  await signedIn(again, 'ola@harbour.example');
  await expect(again.getByText('137').first()).toBeVisible();
  await again.context().close();
  // Nothing is different to what was taken out of where it came from.
  const check = run('definitions', ['check', definitions], { SLATE_DATA: elsewhere });
  expect(await check.ended, check.output()).toBe(0);
  expect(check.output()).toContain('nothing is different');
  second.process.kill('SIGINT');
  expect(await second.ended).toBe(0);
  for (const folder of [data, elsewhere]) rmSync(folder, { recursive: true, force: true });
});
