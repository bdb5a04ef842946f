import { zone } from '../demo/line.ts';
import { lateMinutes } from '../demo/sailings.ts';
import { addPane, publishAndRead, startDashboard } from './support/build.ts';
import { unique } from './support/make.ts';
import { choose, expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

test('below a table stands a number of all its records, whatever page is shown, and bars of one scale compare', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/morning-brief');
  const table = paneOf(reader, 'Late sailings, latest first');
  const foot = table.getByRole('row', { name: 'Of all records' });
  const median = await withDatabase('sound_ops', async (client) => {
    const { rows } = await client.query<{ n: number }>(
      `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY delay_minutes) AS n FROM sailings
       WHERE delay_minutes > $2 AND departs_at >= ((now() AT TIME ZONE $1)::date - 27)::timestamp AT TIME ZONE $1
         AND departs_at < ((now() AT TIME ZONE $1)::date + 1)::timestamp AT TIME ZONE $1`,
      [zone, lateMinutes],
    );
    return String(rows[0]?.n);
  });
  await expect(foot).toHaveText(`median ${median}`);
  await table.getByRole('button', { name: 'Next page' }).click();
  await expect(table).toContainText('11 – 20');
  await expect(foot).toHaveText(`median ${median}`);
  await expect(table.locator('td span[aria-hidden]')).toHaveCount(10);
  const lengths = await table
    .locator('td:has(span[aria-hidden])')
    .evaluateAll((cells) =>
      cells.map((cell) => [
        Number.parseInt(cell.textContent ?? '', 10),
        cell.querySelector('span span')?.clientWidth,
      ]),
    );
  const [[number = 1, length = 0] = []] = lengths;
  for (const [other = 0, its = 0] of lengths)
    expect(Math.abs(its - (other * length) / number), `${other} is drawn ${its} long`).toBeLessThan(2.5);
  await table.getByRole('searchbox').fill('no such sailing');
  await expect(table).toContainText('No sailings contain');
  await reader.context().close();
});

test('the first column of a table is held; columns are made wider and put elsewhere by mouse and by keys', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.setViewportSize({ width: 820, height: 800 });
  await reader.goto('/desk/skerry-sound/vessel-upkeep');
  const table = paneOf(reader, 'Unfinished orders, longest due first');
  const name = table.locator('tbody td').first();
  const before = await name.boundingBox();
  await table.locator('[data-table-scroll]').evaluate((place) => place.scrollTo({ left: 200 }));
  await expect.poll(async () => (await table.locator('tbody td').nth(1).boundingBox())?.x).toBeLessThan(200);
  expect((await name.boundingBox())?.x).toBe(before?.x);

  await reader.setViewportSize({ width: 1280, height: 800 });
  const head = table.getByRole('columnheader', { name: 'Vessel' });
  const narrow = (await head.boundingBox())?.width ?? 0;
  await head.getByRole('button').focus();
  for (let times = 0; times < 20; times += 1) await reader.keyboard.press('Shift+ArrowRight');
  await expect.poll(async () => (await head.boundingBox())?.width ?? 0).toBeGreaterThan(narrow + 60);
  await expect(reader).toHaveURL(/orders\.widths=vessel/);
  const heads = table.getByRole('columnheader');
  await reader.keyboard.press('Control+Shift+ArrowRight');
  await expect(heads.nth(2)).toContainText('Vessel');
  await expect(reader).toHaveURL(/orders\.show=/);
  await reader.keyboard.press('Control+Shift+ArrowRight');
  await expect(heads.nth(3)).toContainText('Vessel');
  await expect(head.getByRole('button')).toBeFocused();
  // The keyboard enters the heads once, and leaves them for the records, wherever it is.
  await reader.keyboard.press('ArrowLeft');
  await expect(heads.nth(2).getByRole('button')).toBeFocused();
  await reader.keyboard.press('ArrowDown');
  const records = table.locator('tbody tr');
  await expect(records.first()).toBeFocused();
  await reader.keyboard.press('Shift+Tab');
  await expect(heads.nth(2).getByRole('button')).toBeFocused();
  await reader.keyboard.press('Tab');
  await reader.keyboard.press('ArrowUp');
  await expect(heads.nth(2).getByRole('button')).toBeFocused();
  await heads.filter({ hasText: 'Due' }).dragTo(heads.first());
  await expect(heads.first()).toContainText('Due');
  // A link shows a colleague the same columns, as wide.
  await reader.reload();
  await expect(heads.first()).toContainText('Due');
  expect((await head.boundingBox())?.width ?? 0).toBeGreaterThan(narrow + 60);
  await reader.context().close();
});

test('records stand together under heads that count all of them, open and close, and keep so in the address', async ({
  analyst,
  browser,
}) => {
  const title = unique('By vessel');
  await startDashboard(analyst, title);
  await addPane(analyst, 'Work orders', /Which records\?/);
  const brief = analyst.getByRole('region', { name: 'The brief' });
  await brief.getByRole('button', { name: 'not grouped' }).click();
  await choose(analyst.getByLabel('Grouped by'), 'vessel');
  await choose(analyst.getByLabel('Then by'), 'month of due');
  await analyst.keyboard.press('Escape');
  await expect(brief.getByRole('button', { name: 'grouped by vessel, then by month of due' })).toBeVisible();
  const preview = analyst.getByRole('region', { name: 'As readers will see it' });
  await expect(preview.getByRole('button', { expanded: true }).first()).toContainText(/\d work orders/);
  await analyst.getByLabel('Title', { exact: true }).fill('Orders');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();

  const reader = await publishAndRead(analyst, browser, title);
  const pane = paneOf(reader, 'Orders');
  const head = pane.locator('[data-group-head]').first().getByRole('button');
  const [vessel = '', counted = ''] =
    /^(.+?)([\d,]+) work orders$/.exec((await head.textContent()) ?? '')?.slice(1) ?? [];
  const ofVessel = await withDatabase('sound_ops', (client) =>
    client.query<{ n: number }>(
      'SELECT count(*)::int AS n FROM work_orders o JOIN vessels v ON v.id = o.vessel_id WHERE v.name = $1',
      [vessel],
    ),
  );
  expect(Number(counted.replace(',', ''))).toBe(ofVessel.rows[0]?.n);
  const records = pane.locator('tbody tr:not([data-group-head])');
  await expect(records).toHaveCount(10);
  for (const text of await records.allTextContents()) expect(text).toContain(vessel);
  // By keyboard: the arrows go from record to record, and the head opens and closes.
  await records.first().focus();
  await reader.keyboard.press('ArrowDown');
  await expect(records.nth(1)).toBeFocused();
  await head.press('Enter');
  await expect(records).toHaveCount(0);
  await expect(head).toHaveAttribute('aria-expanded', 'false');
  await reader.reload();
  await expect(head).toHaveAttribute('aria-expanded', 'false');
  await expect(records).toHaveCount(0);
  await head.click();
  await expect(records).toHaveCount(10);

  // The head of a month within the vessel counts those of both, and closes them alone.
  const month = pane.locator('[data-group-head="2"]').first().getByRole('button');
  const [due = '', ofMonth = ''] =
    /^(\w{3} \d{4})([\d,]+) work orders?$/.exec((await month.textContent()) ?? '')?.slice(1) ?? [];
  const ofBoth = await withDatabase('sound_ops', (client) =>
    client.query<{ n: number }>(
      `SELECT count(*)::int AS n FROM work_orders o JOIN vessels v ON v.id = o.vessel_id
       WHERE v.name = $1 AND to_char(o.due_on, 'FMMon YYYY') = $2`,
      [vessel, due],
    ),
  );
  expect(Number(ofMonth.replace(',', ''))).toBe(ofBoth.rows[0]?.n);
  await month.press('Enter');
  await expect(month).toHaveAttribute('aria-expanded', 'false');
  const others = await records.count();
  expect(others).toBeLessThan(10);
  await reader.reload();
  await expect(month).toHaveAttribute('aria-expanded', 'false');
  await expect(records).toHaveCount(others);
  await head.click();
  await expect(pane.locator('[data-group-head="2"]')).toHaveCount(0);
  await reader.context().close();
});
