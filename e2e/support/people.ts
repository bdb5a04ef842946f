import {
  type Browser,
  type BrowserContext,
  test as base,
  expect,
  type Locator,
  type Page,
} from '@playwright/test';
import pg from 'pg';
import { demoPassword } from '../../demo/people.ts';
import { installation } from './installation.ts';

export type Who = 'admin' | 'analyst' | 'supervisor' | 'reader';

/** Sessions by person: each signs in once, so that the journeys are about what comes after. */
const sessions = new Map<Who, Awaited<ReturnType<BrowserContext['storageState']>>>();

/** Holds back what a page asks for, by its address, until what is returned is called. */
export async function holdBack(page: Page, address: string | RegExp): Promise<() => void> {
  let letCome = (): void => undefined;
  const come = new Promise<void>((resolve) => {
    letCome = resolve;
  });
  await page.route(address, async (route) => {
    await come;
    // Where nobody waits for it any more there is nothing to go on with.
    await route.continue().catch(() => undefined);
  });
  return letCome;
}

/** A page that answers to keys and clicks once it has been gone to; a person needs longer than that to reach for them. */
export async function livePage(context: BrowserContext): Promise<Page> {
  const page = await context.newPage();
  const live = () => page.locator('html[data-live]').waitFor({ state: 'attached' });
  const [go, reload] = [page.goto.bind(page), page.reload.bind(page)];
  page.goto = async (...to) => {
    const answer = await go(...to);
    await live();
    return answer;
  };
  page.reload = async (...how) => {
    const answer = await reload(...how);
    await live();
    return answer;
  };
  return page;
}

/** Browsers that nobody is at, by person: what they have fetched once they need not fetch again. */
const free = new Map<Who, BrowserContext[]>();

/** Lets the next journey of a person have a browser that is closed, as it was when they had signed in. */
function keepFor(who: Who, context: BrowserContext): void {
  context.close = async () => {
    await Promise.all(context.pages().map((page) => page.close()));
    await context.clearCookies();
    await context.addCookies(sessions.get(who)?.cookies ?? []);
    free.set(who, [...(free.get(who) ?? []), context]);
  };
}

/** A page of a browser of one's own, signed in. */
export async function pageOf(browser: Browser, who: Who | null): Promise<Page> {
  const kept = who && free.get(who)?.pop();
  if (kept) return livePage(kept);
  const known = who && sessions.get(who);
  const context = await browser.newContext({
    baseURL: installation().url,
    viewport: { width: 1280, height: 800 },
    // What moves is drawn many times over, and says nothing that the end of it does not.
    reducedMotion: 'reduce',
    ...(known ? { storageState: known } : {}),
  });
  const page = await livePage(context);
  if (who && !known) {
    await signIn(page, who);
    sessions.set(who, await context.storageState());
  }
  if (who) keepFor(who, context);
  return page;
}

export async function signIn(page: Page, who: Who, to = '/'): Promise<void> {
  await page.goto(`/sign-in?to=${encodeURIComponent(to)}`);
  await page.getByLabel('E-mail address').fill(`${who}@skerry.example`);
  await page.getByLabel('Password').fill(demoPassword);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).not.toHaveURL(/sign-in/);
}

/** Opens the demo's database server. */
export async function withDatabase<T>(name: string, use: (client: pg.Client) => Promise<T>): Promise<T> {
  const url = new URL(installation().database);
  url.pathname = `/${name}`;
  const client = new pg.Client({ connectionString: url.href });
  await client.connect();
  try {
    return await use(client);
  } finally {
    await client.end();
  }
}

export const databaseServer = (): URL => new URL(installation().database);

/** A test as the analyst, on a page where nothing may go wrong unseen. */
export const test = base.extend<{ analyst: Page }>({
  analyst: async ({ browser }, use) => {
    const page = await pageOf(browser, 'analyst');
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    await use(page);
    expect(errors).toEqual([]);
    await page.context().close();
  },
});

/** How much wider a page is than its window, in pixels; whoever reads it would have to move it sideways. */
export const widthBeyond = (page: Page): Promise<number> =>
  page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);

/** The number that a text has, whatever else stands in it. */
export const digits = (text: string | null): number => Number((text ?? '').replace(/[^0-9]/g, ''));

/** Waits until what was searched for has come: every record of a table has the word. */
export async function onlyWith(table: Locator, word: string): Promise<void> {
  const records = table.locator('tbody tr');
  await expect(records.filter({ hasNotText: word })).toHaveCount(0);
  await expect(records).not.toHaveCount(0);
}

/** A pane by its title. */
export const paneOf = (page: Page, title: string) => page.getByRole('region', { name: title, exact: true });

/** Chooses the values of a test: each is typed, and taken whether or not a record has it; those chosen before are let go. */
export async function chooseValues(page: Page, within: Page | Locator, ...values: string[]): Promise<void> {
  await within
    .getByRole('button', { name: /^Values: / })
    .last()
    .click();
  const open = page.getByRole('dialog', { name: /^Values of / });
  const chosen = open.getByRole('checkbox', { checked: true });
  while ((await chosen.count()) > 0) await chosen.first().click();
  const find = open.getByLabel('Find or type a value');
  for (const value of values) {
    await find.fill(value);
    await find.press('Enter');
    await expect(find).toHaveValue('');
  }
  await page.keyboard.press('Escape');
  await expect(open).toBeHidden();
}

/** Opens a list of choices and takes the one of these words, whatever their case. */
export async function choose(box: Locator, words: string | RegExp): Promise<void> {
  await box.click();
  const name =
    typeof words === 'string' ? new RegExp(`^${words.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}$`, 'i') : words;
  await box.page().getByRole('option', { name }).click();
}

export { expect };
