import { expect, pageOf, test } from './support/people.ts';

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
