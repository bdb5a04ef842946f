import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from '@playwright/test';
import { expect, pageOf, paneOf, test, widthBeyond } from './support/people.ts';
import { notPlainOn } from './support/words.ts';

const brief = '/desk/skerry-sound/morning-brief';

/** From one page of a data set to another of its pages, loaded again. */
async function partOfDataSet(page: Page, name: string): Promise<void> {
  const link = page.getByRole('navigation', { name: 'This data set' }).getByRole('link', { name });
  await page.goto((await link.getAttribute('href')) ?? '');
  await expect(link).toHaveAttribute('aria-current', 'page');
  await expect(page.getByText(/Working|Counting|Loading/)).toHaveCount(0);
}

/** Screens that are looked at one after the other; some begin where the one before ended. */
type Screens = readonly (readonly [name: string, go: (page: Page) => Promise<void>])[];

const screens: Readonly<Record<string, Screens>> = {
  'what readers see': [
    [
      'the morning brief',
      async (page) => {
        await page.goto(brief);
        await expect(paneOf(page, 'Late sailings, latest first').getByRole('row').nth(1)).toBeVisible();
      },
    ],
    [
      'a clause being chosen',
      async (page) => {
        await page.getByRole('button', { name: 'All routes' }).click();
        await expect(page.getByRole('dialog').getByRole('checkbox').first()).toBeVisible();
      },
    ],
    [
      'the records behind a number',
      async (page) => {
        await page.keyboard.press('Escape');
        await paneOf(page, 'Sailings today')
          .getByRole('link', { name: /open the records/ })
          .click();
        await expect(page.getByRole('dialog').getByRole('row').nth(1)).toBeVisible();
      },
    ],
    [
      'a trace',
      async (page) => {
        await page.goto('/desk/skerry-sound/passage-trace');
        await page.getByRole('row').nth(1).click();
        await expect(paneOf(page, 'What happened to it').getByRole('status')).toBeVisible();
      },
    ],
  ],
  'what readers compare': [
    [
      'a crosstab with bands, a note, and a chart for each value',
      async (page) => {
        await page.goto('/desk/skerry-sound/route-punctuality');
        await expect(page.getByRole('grid').first()).toBeVisible();
        await expect(paneOf(page, 'The month so far')).toContainText('%');
        await expect(page.locator('svg.apexcharts-svg')).toHaveCount(9);
      },
    ],
    [
      'a form that adds a record',
      async (page) => {
        await page.goto('/desk/skerry-sound/requisitions');
        await expect(paneOf(page, 'Raise a requisition').getByLabel('Vessel')).toBeVisible();
      },
    ],
    [
      'incidents that nobody has touched for long',
      async (page) => {
        await page.goto('/desk/skerry-sound/incidents');
        const list = paneOf(page, 'Nobody has touched these for 7 days, longest first');
        await expect(list.locator('tbody tr').first()).toBeVisible();
      },
    ],
    [
      'cards in step with a table, the next one, and a form for the one that is picked',
      async (page) => {
        await page.goto('/desk/skerry-sound/vessel-upkeep');
        await expect(paneOf(page, 'The same orders as cards').getByRole('listitem').first()).toBeVisible();
        await paneOf(page, 'Unfinished orders, longest due first').locator('tbody tr').nth(3).click();
        await expect(paneOf(page, 'Change the picked order').getByLabel('Title')).toBeVisible();
      },
    ],
    [
      'an action that is asked about',
      async (page) => {
        const orders = paneOf(page, 'Unfinished orders, longest due first');
        await orders.locator('tbody').getByRole('checkbox').first().click();
        await orders.getByRole('button', { name: 'Defer' }).click();
        await expect(page.getByRole('dialog', { name: 'Defer' }).getByLabel('Due')).toBeVisible();
      },
    ],
    [
      'rows of a spreadsheet, compared',
      async (page) => {
        await page.keyboard.press('Escape');
        const orders = paneOf(page, 'Unfinished orders, longest due first');
        await orders.getByRole('button', { name: 'Change from a spreadsheet' }).click();
        const sheet = page.getByRole('dialog', { name: /from a spreadsheet$/ });
        await sheet
          .getByLabel('Rows, with their heads in the first')
          .fill('Id,Priority,Colour\n7001,urgent,red\n7002,gigantic,red\n9999,low,red');
        await sheet.getByRole('button', { name: 'Compare' }).click();
        await expect(sheet.getByRole('button', { name: 'Back to the rows' })).toBeVisible();
      },
    ],
    [
      'the follow-up of a record',
      async (page) => {
        await page.keyboard.press('Escape');
        const row = paneOf(page, 'Unfinished orders, longest due first').locator('tbody tr').nth(1);
        await row.focus();
        await page.keyboard.press('Enter');
        await expect(page.getByRole('region', { name: 'Follow-up' })).toBeVisible();
      },
    ],
    [
      'the work list',
      async (page) => {
        await page.goto('/follow-ups/skerry-sound');
        await expect(page.getByRole('heading', { name: 'Follow-ups' })).toBeVisible();
      },
    ],
  ],
  'what sources are built with': [
    [
      'the workroom',
      async (page) => {
        await page.goto('/workroom');
      },
    ],
    [
      'adding a source',
      async (page) => {
        await page.goto('/workroom/sources/new');
      },
    ],
    [
      'a source',
      async (page) => {
        await page.goto('/workroom');
        await page.getByRole('link', { name: 'Sound operations' }).click();
        await page
          .getByRole('region', { name: 'What is there' })
          .getByRole('link', { name: /sailings/ })
          .first()
          .click();
        await expect(page.getByRole('region', { name: 'Some of its records' })).toBeVisible();
      },
    ],
  ],
  'what data sets are built with': [
    [
      'a data set',
      async (page) => {
        await page.goto('/workroom');
        await page.getByRole('link', { name: 'Sailings', exact: true }).click();
        await expect(page.getByRole('region', { name: 'Its records' }).getByRole('row').nth(1)).toBeVisible();
      },
    ],
    ['its steps', (page) => partOfDataSet(page, 'Steps')],
    ['its subsets and checks', (page) => partOfDataSet(page, 'Subsets, checks and rules')],
    ['what can be done to its records', (page) => partOfDataSet(page, 'Changes')],
    ['what depends on it', (page) => partOfDataSet(page, 'What depends on it')],
  ],
  'what dashboards are built with': [
    [
      'a draft',
      async (page) => {
        await page.goto('/workroom');
        await page.getByRole('link', { name: 'Morning brief' }).click();
        await expect(paneOf(page, 'Late sailings, latest first').getByRole('row').nth(1)).toBeVisible();
      },
    ],
    [
      'a brief',
      async (page) => {
        await page.goto('/workroom');
        await page.getByRole('link', { name: 'Morning brief' }).click();
        await paneOf(page, 'Why they were late').hover();
        await page.getByRole('link', { name: 'Edit the brief of Why they were late' }).click();
        await expect(page.getByRole('region', { name: 'The brief' })).toBeVisible();
      },
    ],
  ],
};

/** What axe finds on a page, one sentence for each place. */
async function found(
  page: Page,
  name: string,
  narrow: (builder: AxeBuilder) => AxeBuilder,
): Promise<string[]> {
  // No page has frames, so nothing has to be put together from several of them; passes are not described, and no rule of those that are asked reads style sheets.
  const builder = new AxeBuilder({ page })
    .setLegacyMode(true)
    .options({ resultTypes: ['violations'], preload: false });
  const { violations } = await narrow(builder).analyze();
  return violations.map(({ id, nodes }) => `${name}: ${id}: ${nodes[0]?.html} ${nodes[0]?.failureSummary}`);
}

const wholePage = (builder: AxeBuilder): AxeBuilder =>
  builder.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']);
/** All that the theme changes is colour. */
const colours = (builder: AxeBuilder): AxeBuilder =>
  builder.withRules(['color-contrast', 'link-in-text-block']);

/**
 * A page that stands still while it is looked at: what is fetched again is dimmed, on purpose, until it is there, and a page that
 * follows its records may begin to at any time.
 */
async function stillPageOf(browser: Browser, who: Parameters<typeof pageOf>[1]): Promise<Page> {
  const page = await pageOf(browser, who);
  // To route what a page asks for would have it fetch every script again.
  const requests = await page.context().newCDPSession(page);
  await requests.send('Network.enable');
  await requests.send('Network.setBlockedURLs', { urls: ['*/live?*'] });
  return page;
}

/** The rows of a table after its first ten, which are as those are. */
const alike = 'tbody tr:nth-child(n + 11)';

/** Looks at a screen in both themes: all that the second changes is colour. What it says is plain English. */
async function look(page: Page, name: string): Promise<void> {
  // What a dialog stands over is looked at without it too.
  const isOver = (await page.getByRole('dialog').count()) > 0;
  const part = (builder: AxeBuilder): AxeBuilder =>
    (isOver ? builder.include('[role=dialog]') : builder).exclude('[aria-busy="true"]').exclude(alike);
  const settled = (): Promise<void> => expect(page.locator('[aria-busy="true"]')).toHaveCount(0);
  await settled();
  expect(await notPlainOn(page)).toEqual([]);
  expect(await widthBeyond(page), `${name} is no wider than the window`).toBeLessThanOrEqual(0);
  expect(await found(page, `${name} by day`, (all) => wholePage(part(all)))).toEqual([]);
  const themed = (theme: string): Promise<void> =>
    page.evaluate((as) => {
      document.documentElement.dataset.theme = as;
    }, theme);
  await themed('night');
  await settled();
  expect(await found(page, `${name} by night`, (all) => colours(part(all)))).toEqual([]);
  await themed('day');
}

test('the sign-in is accessible by day, and its colours by night', async ({ browser }) => {
  const page = await stillPageOf(browser, null);
  await page.goto('/sign-in');
  // Whoever comes begins with their address, without reaching for it.
  await expect(page.getByLabel('E-mail address')).toBeFocused();
  await look(page, 'the sign-in');
  await page.context().close();
});

/** A page by its address, with the heading that says that it is there. */
const pageAt = (path: string, heading: string): Screens[number] => [
  path,
  async (page) => {
    await page.goto(path);
    await expect(page.getByRole('heading', { level: 1, name: heading })).toBeVisible();
  },
];

/** What administrators and everybody for themselves see. */
const screensOfAdmin: Readonly<Record<string, Screens>> = {
  'looking after people and desks': [
    pageAt('/administration/groups', 'Groups'),
    pageAt('/administration/desks', 'Desks'),
    pageAt('/administration/desks/skerry-sound', 'Skerry Sound'),
    pageAt('/administration/history', 'What was done'),
    pageAt('/administration/people', 'People'),
    [
      'a person',
      async (page) => {
        await page.getByRole('link', { name: 'Torquil Brae' }).click();
        await expect(page.getByRole('heading', { name: 'Leaving' })).toBeVisible();
      },
    ],
  ],
  'what is one’s own, and what is handed over': [
    pageAt('/account', 'Astrid Heddle'),
    pageAt('/account/keys', 'Keys for programs'),
    pageAt('/see-as?desk=skerry-sound', 'See it as'),
    pageAt('/workroom/menu/skerry-sound', 'Menu of Skerry Sound'),
    pageAt('/workroom/definitions', 'Definitions as files'),
  ],
};

for (const [who, lists] of [
  ['analyst', screens],
  ['admin', screensOfAdmin],
] as const)
  for (const [what, some] of Object.entries(lists))
    test(`${what} is accessible by day, and its colours by night`, async ({ browser }) => {
      const page = await stillPageOf(browser, who);
      for (const [name, go] of some) {
        await go(page);
        await look(page, name);
      }
      await page.context().close();
    });

test('a whole reading task goes by keyboard alone', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  await expect(paneOf(page, 'Late sailings, latest first').getByRole('row').nth(1)).toBeVisible();
  await page.keyboard.press('s');
  await page.keyboard.press('Enter');
  await expect(
    page.getByRole('dialog', { name: 'Choose routes' }).getByRole('checkbox').first(),
  ).toBeVisible();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Space');
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(/route=/);
  await page.keyboard.press('/');
  await page.keyboard.type('SK-');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(/late\.find=SK-/);
  await page.keyboard.press('2');
  await expect(page).toHaveURL(/route-punctuality/);
  await page.context().close();
});

test('on a phone the page reads without scrolling sideways', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(brief);
  await expect(paneOf(page, 'Sailings today').getByRole('link', { name: /open the records/ })).toBeVisible();
  expect(await widthBeyond(page)).toBeLessThanOrEqual(0);
  await page.context().close();
});

test('the first Tab of a page leads past the menu, and the next one past the scope', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  await page.keyboard.press('Tab');
  const skip = page.getByRole('link', { name: 'Skip to the content' });
  await expect(skip).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('main')).toBeFocused();
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the panes' })).toBeFocused();
  await page.keyboard.press('Enter');
  const mast = (await page.getByRole('banner').boundingBox())?.height ?? 0;
  const panes = await page.locator('#panes').boundingBox();
  expect(panes?.y).toBeGreaterThan(mast);
  await page.keyboard.press('Tab');
  await expect(page.locator('[data-pane]').first().locator(':focus')).toHaveCount(1);
  await page.context().close();
});

test('a dashboard is a few presses of Tab from the top of the workroom', async ({ analyst }) => {
  await analyst.goto('/workroom');
  await analyst.keyboard.press('Tab');
  await analyst.keyboard.press('Enter');
  await analyst.keyboard.press('Tab');
  await expect(analyst.getByRole('link', { name: 'Skip to the data sets' })).toBeFocused();
  await analyst.keyboard.press('Tab');
  await expect(analyst.getByRole('link', { name: 'Skip to the dashboards' })).toBeFocused();
  await analyst.keyboard.press('Enter');
  await analyst.keyboard.press('Tab');
  await expect(analyst.getByRole('link', { name: 'Start a dashboard' }).last()).toBeFocused();
  await analyst.keyboard.press('Tab');
  const dashboards = analyst.getByRole('region', { name: 'Dashboards' });
  await expect(dashboards.getByRole('link').nth(1)).toBeFocused();
});
