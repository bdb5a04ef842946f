import type { Locator } from '@playwright/test';
import ExcelJS from 'exceljs';
import { addPane, publishAndRead, startDashboard } from './support/build.ts';
import { copyOfDashboard, unique } from './support/make.ts';
import { expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/** What the shares of the groups of a crosstab add up to in its first column; no number where they are no shares. */
async function sharesOf(within: Locator): Promise<number> {
  const groups = within
    .getByRole('row')
    .filter({ has: within.page().getByRole('button', { name: /^Close / }) });
  const shares = await groups.evaluateAll((rows) =>
    rows.map((row) => row.querySelector('td, [role=gridcell]')?.textContent ?? ''),
  );
  return shares.reduce((sum, text) => sum + (text.endsWith('%') ? Number.parseFloat(text) : Number.NaN), 0);
}

test('records are split two ways, from the question to what readers get', async ({ analyst, browser }) => {
  const title = unique('Two ways');
  await startDashboard(analyst, title);
  await addPane(analyst, 'Sailings', /How does it split two ways\?/);
  const brief = analyst.getByRole('region', { name: 'The brief' });
  await expect(brief).toContainText('Show sailings down by status and across by month of departs');
  await analyst.getByLabel('Title', { exact: true }).fill('Sailings by route');
  const preview = analyst.getByRole('region', { name: 'As readers will see it' });
  await expect(preview.getByRole('rowheader', { name: 'Arrived' })).toBeVisible();

  await brief.getByRole('button', { name: 'status', exact: true }).click();
  await analyst.getByRole('checkbox', { name: 'route', exact: true }).click();
  await analyst.keyboard.press('Escape');
  await expect(brief).toContainText('down by status then route');
  await expect(preview.getByRole('rowheader', { name: 'Fenwold Bay – Auldstaithe' }).first()).toBeVisible();
  await brief.getByRole('button', { name: 'as they are' }).click();
  await analyst.getByRole('button', { name: 'as shares of their column' }).click();
  await expect.poll(() => sharesOf(preview)).toBeCloseTo(100, 0);
  await analyst.getByRole('button', { name: 'Save the brief' }).click();

  const reader = await publishAndRead(analyst, browser, title);
  await expect.poll(() => sharesOf(paneOf(reader, 'Sailings by route'))).toBeCloseTo(100, 0);
  await reader.context().close();
});

test('readers close and open, sort, and open what is behind a number; the address holds it', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.addInitScript(noteWhatGoes);
  await reader.goto('/desk/skerry-sound/route-punctuality');
  const pane = paneOf(reader, 'On-time rate by route, vessel and month');
  const heads = pane.getByRole('rowheader');
  await expect(pane.getByRole('rowheader', { name: 'Total' })).toBeVisible();
  const all = await heads.count();
  const first = pane.getByRole('button', { name: /^Close / }).nth(1);
  const name = ((await first.getAttribute('aria-label')) ?? '').replace('Close ', '');
  await first.click();
  await expect(pane.getByRole('button', { name: `Open ${name}` })).toBeVisible();
  const fewer = await heads.count();
  expect(fewer).toBeLessThan(all);
  await expect(reader).toHaveURL(/months\.turned=/);
  await reader.reload();
  await expect(pane.getByRole('button', { name: `Open ${name}` })).toBeVisible();
  await expect(heads).toHaveCount(fewer);
  // What the server drew is taken over as it stands.
  expect(await reader.evaluate(() => document.documentElement.dataset.gone)).toBeUndefined();
  await pane.hover();
  await pane.getByRole('button', { name: 'Close all rows' }).click();
  await expect(pane.getByRole('button', { name: /^Close [^a]/ })).toHaveCount(0);
  await pane.getByRole('button', { name: 'Open all rows' }).click();
  await expect(heads).toHaveCount(all);

  await pane.getByRole('columnheader', { name: 'Total' }).getByRole('button').click();
  await expect(pane.getByRole('columnheader', { name: 'Total' })).toHaveAttribute('aria-sort', 'descending');
  await expect(reader).toHaveURL(/months\.order=/);

  // The file has the same heads, the same order and the same numbers.
  await pane.hover();
  await pane.getByRole('button', { name: /^Download / }).click();
  const coming = reader.waitForEvent('download');
  await reader.getByRole('link', { name: 'Its numbers, as a spreadsheet that looks the same' }).click();
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.readFile(await (await coming).path());
  const page = workbook.getWorksheet('As it looks');
  expect(page?.rowCount).toBe(all + 1);
  expect(page?.getCell('A1').value).toBe('Route › Vessel');
  expect(page?.getCell('A2').value).toBe(await heads.first().getByRole('button').last().textContent());
  await reader.keyboard.press('Escape');

  const causes = paneOf(reader, 'Why they were late');
  const cell = causes.getByRole('row').nth(1).getByRole('gridcell').first();
  const number = await cell.textContent();
  await cell.focus();
  await reader.keyboard.press('ArrowDown');
  await reader.keyboard.press('ArrowUp');
  await expect(cell).toBeFocused();
  await reader.keyboard.press('Enter');
  const sheet = reader.getByRole('dialog');
  await expect(sheet).toContainText(`${number} sailings`);
  await reader.keyboard.press('Escape');
  await expect(sheet).toHaveCount(0);

  // A head makes what it names what is looked at.
  await causes.getByRole('rowheader').first().getByRole('button').click();
  await expect(reader.getByText('looking at')).toBeVisible();
  await reader.context().close();
});

test('of very many columns those in sight are drawn, keys lead to any of them, and paper has all', async ({
  analyst,
}) => {
  const title = unique('Day by day');
  const { id, address } = await copyOfDashboard('route-punctuality', title);
  await withDatabase('postgres', (client) =>
    client.query(
      `UPDATE dashboards SET draft = draft || jsonb_build_object('scope', '[]'::jsonb, 'panes', jsonb_build_array(jsonb_build_object(
         'kind', 'crosstab', 'id', 'days', 'title', 'By day', 'dataSet', (SELECT id FROM data_sets WHERE name = 'Sailings'),
         'down', '[{"field":"route"},{"field":"vessel"}]'::jsonb, 'across', '[{"field":"departs_at","unit":"month"},{"field":"departs_at","unit":"day"}]'::jsonb,
         'measures', '["count"]'::jsonb, 'cells', 'value', 'order', 'label',
         'place', '{"x":0,"y":0,"w":12,"h":14}'::jsonb)))
       WHERE id = $1`,
      [id],
    ),
  );
  await analyst.goto(address);
  const pane = paneOf(analyst, 'By day');
  const grid = pane.getByRole('grid');
  const cells = grid.getByRole('gridcell');
  await expect(grid.getByRole('rowheader', { name: 'Total' })).toBeVisible();
  const columns = Number(await grid.getAttribute('aria-colcount'));
  expect(columns).toBeGreaterThan(150);
  const rows = await grid.getByRole('rowheader').count();
  expect(await cells.count()).toBeLessThan(rows * 60);
  // The keyboard comes to the last of a row, and back to its first.
  await cells.first().focus();
  await analyst.keyboard.press('End');
  await expect(grid.locator(`[aria-colindex="${columns}"]`).first()).toBeFocused();
  const last = await grid.locator(`[aria-colindex="${columns}"]`).allTextContents();
  await analyst.keyboard.press('ArrowLeft');
  await expect(grid.locator(`[aria-colindex="${columns - 1}"]`).first()).toBeFocused();
  // Heads stand over their columns.
  const head = grid.locator('thead tr').first().locator('th').last();
  const under = grid.locator(`[aria-colindex="${columns}"]`).first();
  const right = async (of: typeof head): Promise<number> => {
    const box = await of.boundingBox();
    return Math.round((box?.x ?? 0) + (box?.width ?? 0));
  };
  expect(Math.abs((await right(head)) - (await right(under)))).toBeLessThan(2);
  // The head of the last month is in sight with its last days.
  const month = grid.getByRole('button', { name: /^Close \w+ \d{4}$/ }).last();
  await expect(month).toBeInViewport();
  await analyst.keyboard.press('Home');
  await expect(grid.locator('[aria-colindex="2"]').first()).toBeFocused();
  expect(await cells.count()).toBeLessThan(rows * 60);
  // What is under the heads of the rows is in sight.
  const [rowHead, first] = await Promise.all([
    grid.getByRole('rowheader').first().boundingBox(),
    grid.locator('[aria-colindex="2"]').first().boundingBox(),
  ]);
  expect(first?.x ?? 0).toBeGreaterThanOrEqual((rowHead?.x ?? 0) + (rowHead?.width ?? 0) - 1);
  await analyst.evaluate(() => window.dispatchEvent(new Event('beforeprint')));
  await expect(cells).toHaveCount(rows * (columns - 1));
  expect(await grid.locator(`[aria-colindex="${columns}"]`).allTextContents()).toEqual(last);
  await analyst.evaluate(() => window.dispatchEvent(new Event('afterprint')));
});

/** Notes on the page whether a crosstab that stood in it was ever gone. */
function noteWhatGoes(): void {
  let was = 0;
  new MutationObserver(() => {
    const now = document.querySelectorAll('[data-kind="crosstab"] [role="grid"]').length;
    if (now < was) document.documentElement.dataset.gone = 'true';
    was = now;
  }).observe(document, { childList: true, subtree: true });
}
