import type { BrowserContext, Page, Request } from '@playwright/test';
import { addPane, publishDraft, startDashboard } from './support/build.ts';
import { choose, expect, livePage, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/** How many incidents a card says there are. */
const told = async (page: Page): Promise<number> => {
  const [, number = ''] =
    /incidents: ([\d,]+)/.exec((await paneOf(page, 'How many').textContent()) ?? '') ?? [];
  return Number(number.replaceAll(',', ''));
};

/** How many incidents there are where they come from. */
const atSource = (): Promise<number> =>
  withDatabase('sound_ops', async (client) => {
    const { rows } = await client.query<{ n: string }>('SELECT count(*) AS n FROM incidents');
    return Number(rows[0]?.n);
  });

/** How many connections the pages of a browser hold to hear of changes. */
function linesOf(context: BrowserContext): () => number {
  const open = new Set<Request>();
  context.on('request', (request) => new URL(request.url()).pathname === '/live' && open.add(request));
  for (const event of ['requestfinished', 'requestfailed'] as const)
    context.on(event as 'requestfinished', (request) => open.delete(request));
  return () => [...open].filter((request) => !request.frame().page().isClosed()).length;
}

test('records that are kept are fetched by the worker, and open pages follow by themselves', async ({
  analyst,
  browser,
}) => {
  // The demo's clock goes on, and may bring more at any time.
  const atFirst = await atSource();
  const inWords = (count: number): string => count.toLocaleString('en-GB');

  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Sound operations' }).click();
  // Data sets of the workroom may have the same word in their names.
  const tables = analyst.getByRole('region', { name: 'What is there' });
  await tables.getByRole('link', { name: /incidents/ }).click();
  await expect(
    analyst.getByRole('region', { name: 'Some of its records' }).getByRole('row').nth(1),
  ).toBeVisible();
  await analyst.getByRole('link', { name: 'Make a data set' }).last().click();
  await expect(analyst.getByRole('region', { name: 'Its records' }).getByRole('row').nth(1)).toBeVisible();
  await analyst.getByLabel('Name', { exact: true }).fill('Incidents, kept');
  await choose(analyst.getByLabel('Records are', { exact: true }), 'kept here');
  await choose(analyst.getByLabel('When', { exact: true }), 'by the clock');
  await analyst.getByLabel('Minute, hour, day, month, weekday').fill('40 6 *');
  await expect(analyst.getByRole('alert')).toContainText('five fields');
  await choose(analyst.getByLabel('When', { exact: true }), 'only when somebody asks');
  await analyst.getByRole('button', { name: 'Save data set' }).click();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  const refreshes = analyst.getByRole('region', { name: 'Refreshes' });
  await expect(refreshes.getByRole('row').nth(1)).toContainText('Done');

  await startDashboard(analyst, 'Kept board');
  for (const question of [/How many\?/, /Which records\?/]) {
    await addPane(analyst, 'Incidents, kept', question);
    await expect(analyst.getByRole('region', { name: 'The brief' })).toBeVisible();
    await analyst
      .getByLabel('Title', { exact: true })
      .fill(question.source.startsWith('How') ? 'How many' : 'Which');
    await analyst.getByRole('button', { name: 'Save the brief' }).click();
    await expect(analyst.getByRole('toolbar', { name: 'Draft' })).toBeVisible();
  }
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();

  const first = await pageOf(browser, 'reader');
  const lines = linesOf(first.context());
  const openBoard = async (page: Page): Promise<Page> => {
    await page.goto('/desk/skerry-sound/kept-board');
    await expect(paneOf(page, 'How many')).toContainText(/incidents: \d/);
    return page;
  };
  await openBoard(first);
  await expect.poll(lines).toBe(1);
  const reader = await openBoard(await livePage(first.context()));
  const others: Page[] = [];
  for (let n = 0; n < 4; n += 1) others.push(await openBoard(await livePage(first.context())));
  // The pages of one browser share one line, and when the page that holds it goes another does.
  await expect.poll(lines).toBe(1);
  await first.close();
  await expect.poll(lines).toBe(1);
  const total = await told(reader);
  expect(total).toBeGreaterThanOrEqual(atFirst);
  expect(total).toBeLessThanOrEqual(await atSource());
  await paneOf(reader, 'Which').getByRole('button', { name: 'Next page' }).click();
  await expect(paneOf(reader, 'Which')).toContainText(/11 – 20/);

  await withDatabase('sound_ops', (client) =>
    client.query(
      "INSERT INTO incidents SELECT (jsonb_populate_record(i, jsonb_build_object('id', 999999))).* FROM incidents i LIMIT 1",
    ),
  );
  const added = await atSource();
  expect(added).toBeGreaterThan(total);
  // What is kept stays as it was until it is fetched again, and then every open page has it.
  await reader.reload();
  await expect(paneOf(reader, 'How many')).toContainText(inWords(total));
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Incidents, kept' }).click();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  await analyst.getByRole('button', { name: 'Refresh now' }).click();
  await expect.poll(() => told(reader)).toBeGreaterThanOrEqual(added);
  expect(await told(reader)).toBeLessThanOrEqual(await atSource());
  for (const page of others) await expect.poll(() => told(page)).toBe(await told(reader));
  await expect(refreshes.getByRole('row').nth(1)).toContainText(inWords(await told(reader)));
  await expect(refreshes.getByRole('row').nth(2)).toContainText(inWords(total));
  await expect(paneOf(reader, 'Which')).toContainText(/11 – 20/);
  await withDatabase('sound_ops', (client) => client.query('DELETE FROM incidents WHERE id = 999999'));
  await reader.context().close();
});
