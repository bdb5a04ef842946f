import { addPane, publishAndRead, startDashboard } from './support/build.ts';
import { copyOfDashboard, unique } from './support/make.ts';
import { expect, pageOf, paneOf, test, widthBeyond } from './support/people.ts';

test('a first dashboard is proposed whole, ticked and renamed, published, and reads from a number down to a record', async ({
  analyst,
  browser,
}) => {
  const title = unique('Upkeep');
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Work orders', exact: true }).first().click();
  await analyst.getByRole('link', { name: 'Propose a dashboard' }).click();
  await analyst.getByLabel('Title', { exact: true }).fill(title);
  const shown = analyst.getByRole('group', { name: 'What it shows' });
  await expect(shown.getByRole('listitem').first()).toContainText('Show work orders');
  const all = await shown.getByRole('checkbox').count();
  expect(all).toBeGreaterThan(6);
  await shown.getByRole('checkbox', { name: 'Work orders by status' }).uncheck();
  await shown.getByLabel('Title of Work orders not settled').fill('Still to do');
  await analyst.getByRole('button', { name: 'Start', exact: true }).click();
  await expect(paneOf(analyst, 'Still to do')).toContainText(/\d/);
  await expect(paneOf(analyst, 'Work orders by status')).toHaveCount(0);
  await expect(analyst.locator('[data-pane]')).toHaveCount(all - 1);

  const reader = await publishAndRead(analyst, browser, title);
  await paneOf(reader, 'Still to do')
    .getByRole('link', { name: /open the records/ })
    .click();
  const sheet = reader.getByRole('dialog');
  await sheet.getByRole('row').nth(1).press('Enter');
  await expect(sheet).toContainText('Given to');
  await reader.context().close();
});

test('a note says live numbers in a sentence, each of which opens; what a text holds of markup or pictures stays out', async ({
  analyst,
  browser,
}) => {
  const title = unique('In words');
  await startDashboard(analyst, title);
  await addPane(analyst, 'Sailings', /How would you say it\?/);
  const brief = analyst.getByRole('region', { name: 'The brief' });
  await expect(brief).toContainText('Say it in words, with 2 live numbers');
  const preview = analyst.getByRole('region', { name: 'As readers will see it' });
  await expect(preview).toContainText(/\d sailings, most of them Arrived\./);

  // Another number, put where the text ends.
  await brief.getByRole('button', { name: '2 live numbers' }).click();
  await analyst
    .getByRole('dialog')
    .getByRole('button', { name: /^late sailings/ })
    .click();
  await expect(preview).toContainText(/most of them Arrived\. \d/);
  await brief.getByLabel('Text').click();
  await analyst.keyboard.press('Control+End');
  await analyst.keyboard.type(
    ' were late.\n\n# Why\n<script>window.ran = 1</script><img src="https://far.example/a.png" onerror="window.ran = 1">\n![far](https://far.example/b.png) [press](javascript:window.ran=1) {nobody}',
  );
  await expect(preview.getByRole('heading', { name: 'Why' })).toBeVisible();
  await expect(preview.getByTitle('There is no number of this name')).toHaveText('{nobody}');
  await brief.getByLabel('Say something else while a number in it has no value').check();
  await brief.getByLabel('What it says then').click();
  await analyst.keyboard.type('Nothing of it yet.');
  // By keyboard too one comes out of a text.
  await analyst.keyboard.press('Tab');
  await expect(brief.getByLabel('What it says then')).not.toBeFocused();
  await analyst.getByLabel('Title', { exact: true }).fill('The day in words');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();

  const reader = await publishAndRead(analyst, browser, title);
  const note = paneOf(reader, 'The day in words');
  await expect(note).toContainText('were late.');
  await expect(note.locator('img, script, [onerror], a[href^="javascript"]')).toHaveCount(0);
  const late = note.getByRole('link').nth(2);
  const number = (await late.textContent()) ?? '';
  await late.press('Enter');
  await expect(reader.getByRole('dialog')).toContainText(`${number} late sailings`);
  await expect(note).not.toContainText('Nothing of it yet.');

  // No vessel of another route has sailed on this one: what was latest has no name.
  await reader.goto('/desk/skerry-sound/route-punctuality?route=Norrick – Holm Pier&vessel=Razorbill');
  await expect(paneOf(reader, 'The month so far')).toContainText('Nothing has left late yet this month.');
  await reader.context().close();
});

test('cards are in step with the table beside them, by mouse and by keyboard', async ({ browser }) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/vessel-upkeep');
  const table = paneOf(reader, 'Unfinished orders, longest due first');
  const cards = paneOf(reader, 'The same orders as cards').getByRole('list').getByRole('button');
  const titles = async (): Promise<string[]> =>
    (await table.locator('tbody td:first-child').allTextContents()).map((text) => text.trim());
  await expect(cards).toHaveCount(12);
  const asListed = async (): Promise<void> => {
    // Each pane is there as soon as it is answered, and not with the other.
    await expect(reader.locator('[aria-busy="true"]')).toHaveCount(0);
    const listed = await titles();
    await expect(cards).toHaveCount(listed.length);
    for (const [at, title] of listed.entries()) await expect(cards.nth(at)).toHaveAccessibleName(title);
  };
  await asListed();
  await table.getByRole('button', { name: 'Next page' }).click();
  await expect(table).toContainText('13 – 24');
  await asListed();
  await table.getByRole('searchbox').fill('anodes');
  await expect(reader).toHaveURL(/orders\.find=anodes/);
  await expect(cards.first()).toHaveAccessibleName('Check hull anodes');
  await asListed();

  await cards.first().focus();
  await reader.keyboard.press('ArrowRight');
  await expect(cards.nth(1)).toBeFocused();
  await reader.keyboard.press('Space');
  await expect(reader.getByText('looking at')).toBeVisible();
  await expect(cards.nth(1)).toHaveAttribute('aria-pressed', 'true');
  await expect(table.getByRole('row').nth(2)).toHaveAttribute('aria-selected', 'true');
  await cards.nth(1).press('Enter');
  await expect(reader.getByRole('dialog')).toContainText('Check hull anodes');

  await reader.setViewportSize({ width: 390, height: 844 });
  await reader.goto('/desk/skerry-sound/vessel-upkeep');
  await expect(cards).toHaveCount(12);
  expect(await widthBeyond(reader)).toBeLessThanOrEqual(0);
  await reader.context().close();
});

test('one chart for each route has one scale, picks its route, and opens what it counts', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/route-punctuality');
  const pane = paneOf(reader, 'On-time rate, route by route, on one scale');
  const heads = pane.getByRole('heading', { level: 3 });
  await expect(heads).toHaveCount(6);
  await pane.scrollIntoViewIfNeeded();
  await expect(pane.locator('svg.apexcharts-svg')).toHaveCount(6);
  const scales = await pane
    .locator('svg.apexcharts-svg')
    .evaluateAll((charts) =>
      charts.map((chart) =>
        [...chart.querySelectorAll('.apexcharts-yaxis-label')].map((label) => label.textContent).join(' '),
      ),
    );
  expect(new Set(scales).size).toBe(1);
  expect(scales[0]).toMatch(/\d+%/);

  const name = (await heads.first().textContent()) ?? '';
  await heads.first().getByRole('button').press('Enter');
  await expect(reader.getByText('looking at')).toBeVisible();
  await expect(heads.first().getByRole('button')).toHaveAttribute('aria-pressed', 'true');
  // The charts stay beside each other; what is not divided by routes is narrowed.
  await expect(heads).toHaveCount(6);
  await pane.hover();
  await pane.getByRole('button', { name: 'Show as a table' }).click();
  const cell = pane.getByRole('table').first().getByRole('cell').first().getByRole('button');
  const share = (await cell.textContent()) ?? '';
  await cell.click();
  const sheet = reader.getByRole('dialog');
  await expect(sheet).toContainText(share);
  await expect(sheet.getByRole('row').nth(1)).toContainText(name);
  await reader.context().close();
});

test('bands of a measure follow each other, or are not taken', async ({ analyst }) => {
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Sailings', exact: true }).first().click();
  await expect(
    analyst.getByText('below 80.0%: poor; from 80.0%: below target; from 90.0%: no mark'),
  ).toBeVisible();
  await analyst.getByRole('button', { name: 'Change on-time rate' }).click();
  const bands = analyst.getByRole('group', { name: 'Bands' });
  const second = bands.getByLabel('Where band 2 of on-time rate begins');
  await second.fill('0.95');
  await expect(bands.getByRole('status')).toHaveText('each band begins above the one before it');
  await expect(analyst.getByRole('button', { name: 'Done' })).toBeDisabled();
  await second.fill('0.85');
  await expect(bands.getByRole('status')).toHaveCount(0);
  await analyst.getByRole('button', { name: 'Done' }).click();
  await expect(analyst.getByText('below 85.0%: poor; from 85.0%: below target')).toBeVisible();
  await analyst.close();
});

test('numbers are counted in ranges, a second measure stands over the first, and both open onto what they are of', async ({
  analyst,
  browser,
}) => {
  const title = unique('Delays');
  await startDashboard(analyst, title);
  const brief = analyst.getByRole('region', { name: 'The brief' });
  const preview = analyst.getByRole('region', { name: 'As readers will see it' });
  const fill = async (slot: string, choice: string): Promise<void> => {
    await brief.getByRole('button', { name: slot, exact: true }).click();
    await analyst.getByRole('dialog').getByRole('button', { name: choice }).click();
  };

  await addPane(analyst, 'Sailings', /How is it split\?/);
  await brief.getByRole('button', { name: 'status', exact: true }).click();
  await analyst
    .getByRole('dialog')
    .getByRole('button', { name: /^ranges of delay/ })
    .click();
  await fill('bars', 'columns');
  await expect(brief).toContainText('by ranges of delay, each as wide as suits, ');
  await brief.getByRole('button', { name: 'each as wide as suits' }).click();
  await analyst.getByLabel('Width of each range').fill('0');
  await expect(analyst.getByText('A number above 0, such as 5 or 0.25')).toBeVisible();
  await analyst.getByLabel('Width of each range').fill('10');
  await analyst.keyboard.press('Escape');
  await expect(brief).toContainText('each 10 wide');
  await expect(preview.locator('svg.apexcharts-svg')).toBeVisible();
  await analyst.getByLabel('Title', { exact: true }).fill('How late');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();

  await addPane(analyst, 'Sailings', /How does it change\?/);
  await fill('with no second measure', 'with average delay as a line on a scale of its own');
  await expect(preview.getByRole('button', { name: 'average delay' })).toBeVisible();
  await analyst.getByLabel('Title', { exact: true }).fill('How it went');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();

  const reader = await publishAndRead(analyst, browser, title);
  const late = paneOf(reader, 'How late');
  await late.hover();
  await late.getByRole('button', { name: 'Show as a table' }).click();
  const range = late.getByRole('row', { name: /^10 to 19/ });
  const count = (await range.getByRole('cell').textContent()) ?? '';
  await range.getByRole('cell').getByRole('button').click();
  const sheet = reader.getByRole('dialog');
  await expect(sheet).toContainText(`${count} sailings`);
  await expect(sheet).toContainText('10 to 19');
  await reader.keyboard.press('Escape');

  const went = paneOf(reader, 'How it went');
  await went.hover();
  await went.getByRole('button', { name: 'Show as a table' }).click();
  await expect(went.getByRole('columnheader', { name: /average delay/ })).toBeVisible();
  const delay = went.getByRole('row').nth(1).getByRole('cell').nth(1);
  const average = (await delay.textContent()) ?? '';
  await delay.getByRole('button').press('Enter');
  await expect(sheet).toContainText(average);
  await expect(sheet).toContainText('average delay');
  await reader.context().close();
});

test('a brief is copied to another dashboard as it stands, and taken back there', async ({ analyst }) => {
  const [from, to] = [unique('From here'), unique('To there')];
  const source = await copyOfDashboard('vessel-upkeep', from);
  const target = await copyOfDashboard('passage-trace', to);
  await analyst.goto(`${source.address}/brief/by-vessel`);
  await analyst.getByLabel('Title', { exact: true }).fill('Orders, vessel by vessel');
  await analyst.getByRole('button', { name: 'Copy to …' }).click();
  await analyst
    .getByRole('dialog', { name: 'Copy to a dashboard' })
    .getByRole('button', { name: to, exact: true })
    .click();
  await expect(analyst.getByRole('status').filter({ hasText: 'Copied to' })).toBeVisible();
  await analyst.getByRole('link', { name: to, exact: true }).click();
  await expect(analyst).toHaveURL(new RegExp(target.id));
  await expect(paneOf(analyst, 'Orders, vessel by vessel')).toBeVisible();
  await analyst.getByRole('button', { name: 'Undo' }).click();
  await expect(paneOf(analyst, 'Orders, vessel by vessel')).toHaveCount(0);
});
