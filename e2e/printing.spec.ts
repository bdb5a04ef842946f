import { readFileSync } from 'node:fs';
import { PDFDocument } from 'pdf-lib';
import { installation } from './support/installation.ts';
import { unique } from './support/make.ts';
import { choose, expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

interface Letter {
  readonly to: string[];
  readonly subject: string;
  readonly text: string;
  readonly attachments: { readonly name: string; readonly type: string }[];
}

/** Pixels of paper between the margins. */
const paper = 1032;

test('what a reader prints is the sheet as it stands, on white, with nothing that scrolls and no tools', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  for (const dashboard of ['morning-brief', 'route-punctuality', 'vessel-upkeep', 'passage-trace']) {
    await reader.emulateMedia({ media: 'screen' });
    await reader.goto(`/desk/skerry-sound/${dashboard}`);
    await expect(reader.locator('[data-awaited]')).toHaveCount(0);
    await reader.evaluate(() => {
      document.documentElement.dataset.theme = 'night';
      window.dispatchEvent(new Event('beforeprint'));
    });
    await reader.emulateMedia({ media: 'print' });
    const seen = await reader.evaluate(() => {
      const main = document.querySelector('main') as HTMLElement;
      const hidden = [...document.querySelectorAll<HTMLElement>('.tools, .no-print, .mast')];
      const places = [...main.querySelectorAll<HTMLElement>('.pane, .pane [data-table-scroll]')];
      return {
        ground: getComputedStyle(document.documentElement).backgroundColor,
        ink: getComputedStyle(main.querySelector('h1') as HTMLElement).color,
        width: main.getBoundingClientRect().width,
        shown: hidden.filter((each) => each.checkVisibility()).length,
        cut: places
          .filter((each) => getComputedStyle(each).overflow !== 'visible')
          .map((each) => each.className),
        title: (main.querySelector('h1') as HTMLElement).getBoundingClientRect().height,
      };
    });
    expect(seen, dashboard).toMatchObject({
      ground: 'rgb(255, 255, 255)',
      ink: 'rgb(22, 34, 43)',
      shown: 0,
      cut: [],
    });
    expect(seen.width).toBeLessThanOrEqual(paper + 1);
    expect(seen.title).toBeGreaterThan(10);
  }
  await reader.context().close();
});

test('on paper without colours the parts of a chart have each a texture of their own, and so does the legend', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/vessel-upkeep');
  const pane = paneOf(reader, 'Unfinished orders by vessel and priority');
  await expect(pane.locator('svg.apexcharts-svg')).toBeVisible();
  await expect(pane.locator('[data-undrawn]')).toHaveCount(0);
  const textures = (of: string): Promise<string[]> =>
    pane.locator(of).evaluateAll((parts) => parts.map((part) => getComputedStyle(part).maskImage));
  const bars = (series: number): string =>
    `[data\\:realIndex="${series}"] .apexcharts-bar-area:first-of-type`;
  expect(new Set(await textures('[data-swatch]'))).toEqual(new Set(['none']));
  await reader.emulateMedia({ media: 'print' });
  const legend = await textures('[data-swatch]');
  expect(legend).toHaveLength(4);
  expect(new Set(legend).size).toBe(4);
  // The chart is drawn again, at the size that it has on paper.
  await expect
    .poll(async () => {
      const ofSeries = await Promise.all(legend.map((_, series) => textures(bars(series))));
      return ofSeries.map(([first]) => first);
    })
    .toEqual(legend);
  await reader.context().close();
});

test('a crosstab has all its rows on paper, those out of sight too', async ({ browser }) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/route-punctuality');
  const grid = reader.getByRole('grid', { name: 'On-time rate by route, vessel and month' });
  await expect(grid).toBeVisible();
  const count = Number(await grid.getAttribute('aria-rowcount'));
  await reader.evaluate(() => window.dispatchEvent(new Event('beforeprint')));
  await expect(grid.getByRole('rowheader')).toHaveCount(count);
  await reader.evaluate(() => window.dispatchEvent(new Event('afterprint')));
  await expect(grid.getByRole('rowheader').first()).toBeVisible();
  await reader.context().close();
});

test('a dashboard in its scope is a PDF, on the paper that is asked for, and whoever drew it is signed out again', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  const sessions = async () =>
    Number(
      (
        await withDatabase('postgres', (client) =>
          client.query<{ count: string }>("SELECT count(*) FROM sessions WHERE browser LIKE 'Slate Glass%'"),
        )
      ).rows[0]?.count,
    );
  await reader.goto('/desk/skerry-sound/requisitions');
  await reader.getByRole('button', { name: 'On paper' }).click();
  const link = reader.getByRole('link', { name: 'This dashboard as a PDF' });
  const href = (await link.getAttribute('href')) ?? '';
  const [download] = await Promise.all([reader.waitForEvent('download'), link.click()]);
  expect(download.suggestedFilename()).toBe('requisitions.pdf');
  const { request } = reader.context();
  for (const [query, width, height] of [
    ['_paper=a4&_turn=side', 842, 595],
    ['_paper=letter&_turn=upright', 612, 792],
  ] as const) {
    const answer = await request.get(href.replace(/_paper=.*/, query));
    expect(answer.headers()['content-type']).toBe('application/pdf');
    const pdf = await PDFDocument.load(await answer.body());
    expect(pdf.getTitle()).toBe('Requisitions');
    expect(pdf.getPageCount()).toBeGreaterThan(0);
    const page = pdf.getPage(0);
    expect(Math.abs(page.getWidth() - width)).toBeLessThan(2);
    expect(Math.abs(page.getHeight() - height)).toBeLessThan(2);
  }
  expect(await sessions()).toBe(0);
  await reader.context().close();
});

test('all records of a list go on over several sheets, whichever page of it is on the screen', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  const { request } = reader.context();
  await reader.goto('/desk/skerry-sound/vessel-upkeep?orders.page=2');
  await reader.getByRole('button', { name: 'On paper' }).click();
  await choose(reader.getByLabel('Lists have'), 'all records, up to 1,000');
  const whole =
    (await reader.getByRole('link', { name: 'This dashboard as a PDF' }).getAttribute('href')) ?? '';
  const sheets = async (address: string): Promise<number> =>
    (await PDFDocument.load(await (await request.get(address)).body())).getPageCount();
  expect(await sheets(whole)).toBeGreaterThan(await sheets(whole.replace('_lists=all', '_lists=page')));
  await reader.context().close();
});

test('a dashboard is sent by mail at once and regularly, with its numbers in words and the page as a PDF', async ({
  browser,
}) => {
  const supervisor = await pageOf(browser, 'supervisor');
  const { port } = JSON.parse(readFileSync(installation().standIns, 'utf8')) as { port: number };
  const mail = `http://127.0.0.1:${port}/mail`;
  await supervisor.goto('/desk/skerry-sound/vessel-upkeep');
  await supervisor.getByRole('button', { name: 'On paper' }).click();
  await supervisor.getByRole('link', { name: 'Send it by mail, regularly …' }).click();
  const name = unique('Upkeep');
  await supervisor.getByLabel('Name').fill(name);
  await supervisor.getByLabel('At', { exact: true }).fill('25:00');
  await supervisor.getByRole('button', { name: 'Send it regularly' }).click();
  await expect(supervisor.getByText('Write the time as 07:30.')).toBeVisible();
  await supervisor.getByLabel('At', { exact: true }).fill('07:30');
  await supervisor.getByRole('button', { name: 'Send it regularly' }).click();
  await expect(supervisor.getByText('Choose who gets it.')).toBeVisible();
  await supervisor.getByLabel('Torquil Brae').check();
  await supervisor.getByLabel('Mondays').check();
  await supervisor.getByRole('button', { name: 'Send it regularly' }).click();
  const line = supervisor.getByRole('listitem').filter({ hasText: name });
  await expect(line).toContainText('on Mondays at 07:30, to Torquil Brae');
  await line.getByRole('button', { name: 'Send now' }).click();
  const sent = async () => {
    const answer = await supervisor.request.get(mail, { headers: { accept: 'application/json' } });
    return ((await answer.json()) as Letter[]).find(({ subject }) => subject.startsWith(name));
  };
  await expect.poll(sent, { intervals: [2000] }).toBeDefined();
  const letter = await sent();
  expect(letter?.to).toEqual(['reader@skerry.example']);
  expect(letter?.text).toMatch(/Overdue: \d+/);
  expect(letter?.attachments).toMatchObject([{ name: 'vessel-upkeep.pdf', type: 'application/pdf' }]);
  await supervisor.reload();
  await expect(line).toContainText('last sent');
  await line.getByRole('button', { name: 'Remove' }).click();
  await supervisor.getByRole('dialog').getByRole('button', { name: 'Remove' }).click();
  await expect(line).toHaveCount(0);
  await supervisor.context().close();
});
