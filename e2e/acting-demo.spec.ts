import { addPane, publishAndRead, startDashboard } from './support/build.ts';
import { dataSetWithSteps, unique } from './support/make.ts';
import { choose, expect, pageOf, paneOf, test } from './support/people.ts';
import { list, notice, rows, upkeep } from './support/upkeep.ts';

/* What people do to records on the dashboards of the demo. */

test('a form changes the record that is picked, and keeps what was begun for another', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'supervisor');
  await page.goto(upkeep);
  const form = paneOf(page, 'Change the picked order');
  await expect(form).toContainText('Choose a work order in');
  const titles = await Promise.all(
    [5, 6].map(async (at) =>
      ((await rows(page).nth(at).getByRole('cell').nth(1).textContent()) ?? '').trim(),
    ),
  );
  await rows(page).nth(5).click();
  await expect(form.getByLabel('Title')).toHaveValue(titles[0] ?? '');
  // Its fields stand under what they stand under in the record.
  const takes = form.getByRole('group', { name: 'What it takes' });
  await expect(form.getByRole('group', { name: 'Who and when' }).getByLabel('Due')).toBeVisible();
  await takes.getByLabel('Estimate').fill('31.5');
  await rows(page).nth(6).click();
  await expect(form).toContainText(`What you filled in is still about ${titles[0]}.`);
  await expect(takes.getByLabel('Estimate')).toHaveValue('31.5');
  await form.getByRole('button', { name: `Drop it, and change ${titles[1]}` }).click();
  await expect(takes.getByLabel('Estimate')).not.toHaveValue('31.5');
  await expect(form.getByLabel('Title')).toHaveValue(titles[1] ?? '');
  const title = unique('Grease the capstan');
  await form.getByLabel('Title').fill(title);
  await takes.getByLabel('Estimate').fill('32.5');
  await form.getByRole('button', { name: 'Save the order' }).click();
  await expect(notice(page)).toContainText('Save the order: 1 work order.');
  await expect(rows(page).filter({ hasText: title })).toContainText('32.5');
  // It goes on with the record as it is now.
  await expect(form.getByLabel('Title')).toHaveValue(title);
  // What is no longer offered says so.
  await rows(page).filter({ hasText: title }).getByRole('checkbox').click();
  await list(page).getByRole('button', { name: 'Set done' }).click();
  await page.getByRole('dialog', { name: 'Set done' }).getByRole('button', { name: 'Set done' }).click();
  await expect(form).toContainText('“Save the order” is not offered for this work order now.');
  await page.context().close();
});

test('what was learnt about a record is noted, given to somebody, worked through as a list, and settled', async ({
  browser,
}) => {
  const analyst = await pageOf(browser, 'analyst');
  await analyst.goto(upkeep);
  const row = rows(analyst).nth(9);
  const title = ((await row.getByRole('cell').nth(1).textContent()) ?? '').trim();
  await row.focus();
  await analyst.keyboard.press('Enter');
  const drill = analyst.getByRole('dialog');
  const followUp = drill.getByRole('region', { name: 'Follow-up' });
  await expect(followUp).toContainText('Nothing has been said of it yet.');
  const note = unique('Rang the yard');
  await followUp.getByLabel('What was learnt, or is to be done').fill(note);
  await choose(followUp.getByLabel('It is then'), 'waiting');
  await followUp.getByLabel('By when').fill('15 Jan 2031');
  await choose(followUp.getByLabel('Given to'), 'Effie Linklater');
  await followUp.getByRole('button', { name: 'Note it' }).click();
  await expect(followUp.getByRole('list', { name: 'What was said' })).toContainText(note);
  await expect(followUp).toContainText('given to Effie Linklater');
  await analyst.context().close();

  // A reader reads it, and adds nothing.
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/follow-ups/skerry-sound');
  await reader
    .getByRole('list', { name: 'To be followed up' })
    .getByRole('button', { name: title })
    .first()
    .click();
  const theirs = reader.getByRole('region', { name: 'Follow-up' });
  await expect(theirs).toContainText(note);
  await expect(theirs.getByRole('button', { name: 'Note it' })).toHaveCount(0);
  await reader.context().close();

  const supervisor = await pageOf(browser, 'supervisor');
  await supervisor.goto(upkeep);
  await supervisor.getByRole('link', { name: /Follow-ups.*1 for you/ }).click();
  await expect(supervisor.getByRole('heading', { name: `Work order ${title}` })).toBeVisible();
  await supervisor.getByLabel('What was learnt, or is to be done').fill('They came, and it is mended.');
  await choose(supervisor.getByLabel('It is then'), 'settled');
  await supervisor.getByRole('button', { name: 'Note it' }).click();
  const list = supervisor.getByRole('list', { name: 'To be followed up' });
  await expect(list.getByRole('button').first()).toContainText('Settled');
  await supervisor
    .getByRole('navigation', { name: 'Which follow-ups' })
    .getByRole('link', { name: 'Settled' })
    .click();
  await expect(supervisor.getByRole('list', { name: 'What was said' })).toContainText(
    'They came, and it is mended.',
  );
  await expect(supervisor.getByRole('list', { name: 'What was said' })).toContainText(note);
  await supervisor.context().close();
});

test('what is noted of a record stands among its fields, wherever the record is, and every open page has it at once', async ({
  browser,
}) => {
  const analyst = await pageOf(browser, 'analyst');
  const name = unique('Incidents followed up');
  const id = await dataSetWithSteps('Incidents', name, []);
  await analyst.goto(`/workroom/data-sets/${id}/changes`);
  await analyst.getByRole('button', { name: 'Show it as fields' }).click();
  await expect(analyst).toHaveURL(/steps$/);
  await expect(analyst.getByRole('main')).toContainText('in followed-up incidents');
  await analyst.goto(`/workroom/data-sets/${id}/changes`);
  await expect(analyst.getByRole('main')).toContainText('Its fields say how each incident stands');

  const title = unique('Untouched');
  await startDashboard(analyst, title);
  await addPane(analyst, name, /Which records\?/);
  const brief = analyst.getByRole('region', { name: 'The brief' });
  await brief.getByRole('button', { name: /^what, severity/i }).click();
  const columns = analyst.getByRole('dialog');
  for (const label of ['Follow-up', 'Touched by'])
    await columns.getByRole('checkbox', { name: label, exact: true }).check();
  await analyst.keyboard.press('Escape');
  await analyst.getByLabel('Title', { exact: true }).fill('Incidents');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();

  const reader = await publishAndRead(analyst, browser, title);
  const seen = paneOf(reader, 'Incidents').getByRole('row').nth(1);
  await expect(seen).toBeVisible();
  await expect(paneOf(reader, 'Incidents')).not.toContainText('Waiting');

  const supervisor = await pageOf(browser, 'supervisor');
  await supervisor.goto(new URL(reader.url()).pathname);
  await paneOf(supervisor, 'Incidents').locator('tbody tr').first().focus();
  await supervisor.keyboard.press('Enter');
  const followUp = supervisor.getByRole('dialog').getByRole('region', { name: 'Follow-up' });
  await followUp.getByLabel('What was learnt, or is to be done').fill('The harbour office rings back.');
  await choose(followUp.getByLabel('It is then'), 'waiting');
  await followUp.getByRole('button', { name: 'Note it' }).click();
  await expect(seen).toContainText('Waiting');
  await expect(seen).toContainText('Effie Linklater');
  for (const page of [analyst, reader, supervisor]) await page.context().close();
});

test('what the stores were asked for is approved one by one, given back, and a line is added to what is picked and removed', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'supervisor');
  await page.goto('/desk/skerry-sound/requisitions?state=open');
  const table = paneOf(page, 'Requisitions, latest first');
  const card = paneOf(page, 'To be approved or refused');
  await expect(table).toContainText(/of \d+ requisitions/);
  const before = Number(/of (\d+) requisitions/.exec((await table.textContent()) ?? '')?.[1]);
  await expect(card).toContainText(String(before));
  for (const nth of [0, 1, 2]) await table.locator('tbody tr').nth(nth).getByRole('checkbox').click();
  await table.getByRole('button', { name: 'Approve' }).click();
  const asks = page.getByRole('dialog', { name: 'Approve' });
  await expect(asks).toContainText('On 3 requisitions, state becomes “Approved”.');
  await expect(asks).toContainText('They are sent one by one.');
  await asks.getByRole('button', { name: 'Approve' }).click();
  await expect(notice(page)).toContainText('Approve: 3 requisitions.');
  await expect(table).toContainText(`of ${before - 3} requisitions`);
  await expect(card).toContainText(String(before - 3));
  await notice(page).getByRole('button', { name: 'Undo' }).click();
  await expect(table).toContainText(`of ${before} requisitions`);
  // A form in its place: what is wrong stands beside its field, and what was added is counted.
  const form = paneOf(page, 'Raise a requisition');
  await form.getByLabel('Note').fill('two of each');
  await form.getByRole('button', { name: 'Raise a requisition' }).click();
  await expect(form).toContainText('It is needed.');
  await expect(form.getByLabel('Vessel')).toBeFocused();
  await expect(form.getByLabel('Note')).toHaveValue('two of each');
  await choose(form.getByLabel('Depot'), 'SKH');
  await form.getByLabel('Vessel').fill('Fulmar');
  await page.keyboard.press('Enter');
  await expect(table).toContainText(`of ${before + 1} requisitions`);
  await expect(form.getByLabel('Note')).toHaveValue('');
  const row = table.locator('tbody tr').nth(2);
  const number = (await row.getByRole('cell').nth(1).textContent()) ?? '';
  await row.getByRole('cell').nth(2).click();
  const lines = paneOf(page, 'Lines of the requisition');
  await expect(lines).toContainText('3 lines');
  await lines.getByRole('button', { name: 'Add a line' }).click();
  const adds = page.getByRole('dialog', { name: 'Add a line' });
  await expect(adds.getByLabel('Requisition')).toContainText(number);
  await choose(adds.getByLabel('Part'), 'P-0104');
  await adds.getByLabel('Quantity').fill('4');
  await page.keyboard.press('Enter');
  await expect(lines).toContainText('4 lines');
  await lines.locator('tbody tr').first().focus();
  await page.keyboard.press('Space');
  await page.keyboard.press('a');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  const removes = page.getByRole('dialog', { name: 'Remove' });
  await expect(removes).toContainText('Removes 1 line where they come from. This cannot be undone.');
  await removes.getByRole('button', { name: 'Remove' }).press('Enter');
  await expect(lines).toContainText('3 lines');
  await page.context().close();
});

test('a passage is moved to another sailing and cancelled through its service', async ({ browser }) => {
  const page = await pageOf(browser, 'supervisor');
  await page.goto('/desk/skerry-sound/passage-trace?state=booked');
  const passages = paneOf(page, 'Passages, latest first');
  await expect(passages).toContainText(/of \d+ passages/);
  await passages.locator('tbody tr').nth(4).click();
  const passage = paneOf(page, 'The passage');
  await passage.getByRole('button', { name: 'Move to another sailing' }).press('Enter');
  const moves = page.getByRole('dialog', { name: 'Move to another sailing' });
  await moves.getByLabel('Sailing').fill('nowhere');
  await page.keyboard.press('Enter');
  // What the service does not take is told in its own words, and nothing typed is lost.
  await expect(moves).toContainText('a passage can be moved to another sailing, or cancelled');
  await moves.getByLabel('Sailing').fill('SK-20001');
  await page.keyboard.press('Enter');
  await expect(notice(page)).toContainText('Move to another sailing: 1 passage.');
  await expect(passage).toContainText('SK-20001');
  await passage.getByRole('button', { name: 'Cancel it' }).press('Enter');
  await page
    .getByRole('dialog', { name: 'Cancel it' })
    .getByRole('button', { name: 'Cancel it' })
    .press('Enter');
  await expect(notice(page)).toContainText('Cancel it: 1 passage.');
  await expect(passages.locator('tbody')).not.toContainText('Cancelled');
  await page.context().close();
});
