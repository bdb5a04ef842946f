import type { Page } from '@playwright/test';
import { addPane, publishAndRead, publishDraft, startDashboard } from './support/build.ts';
import { dataSetWithSteps, unique } from './support/make.ts';
import { choose, expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/* Records are changed where they come from: by mouse, by keyboard alone, and by two people at once. */

const upkeep = '/desk/skerry-sound/vessel-upkeep';
const list = (page: Page) => paneOf(page, 'Unfinished orders, longest due first');
const rows = (page: Page) => list(page).locator('tbody tr');
const notice = (page: Page) => page.getByRole('status', { name: 'What was done' });
const countOf = async (page: Page): Promise<number> =>
  Number(/of ([\d,]+) work orders/.exec((await list(page).textContent()) ?? '')?.[1]?.replace(',', ''));

test('a supervisor sets what is marked done, every open page follows at once, and it is undone', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto(upkeep);
  await expect(list(reader)).toContainText(/of \d+ work orders/);
  // Who may not is told why, and has nothing to press.
  await expect(list(reader)).toContainText('Only supervisors, analysts and administrators change records');
  await expect(list(reader).getByRole('checkbox')).toHaveCount(0);
  const before = await countOf(reader);

  const supervisor = await pageOf(browser, 'supervisor');
  await supervisor.goto(upkeep);
  const bar = list(supervisor).getByRole('toolbar', { name: 'What can be done to work orders' });
  await expect(bar.getByRole('button', { name: 'Set done' })).toBeDisabled();
  await rows(supervisor).nth(0).getByRole('checkbox').click();
  await rows(supervisor)
    .nth(2)
    .getByRole('checkbox')
    .click({ modifiers: ['Shift'] });
  await expect(bar).toContainText('3 are marked');
  await bar.getByRole('button', { name: 'Set done' }).click();
  const asks = supervisor.getByRole('dialog', { name: 'Set done' });
  await expect(asks).toContainText('On 3 work orders, status becomes “Done” and done becomes this moment.');
  await asks.getByRole('button', { name: 'Set done' }).click();
  await expect(notice(supervisor)).toContainText('Set done: 3 work orders.');
  await expect(bar).toContainText('none is marked');
  await expect(list(supervisor)).toContainText(`of ${before - 3} work orders`);
  await expect(list(reader)).toContainText(`of ${before - 3} work orders`);
  await notice(supervisor).getByRole('button', { name: 'Undo' }).click();
  await expect(list(supervisor)).toContainText(`of ${before} work orders`);
  await expect(list(reader)).toContainText(`of ${before} work orders`);
  await reader.context().close();
  await supervisor.context().close();
});

test('the records behind a number are acted on where they are listed, and the number follows', async ({
  browser,
}) => {
  const title = unique('Overdue anchor light');
  await withDatabase('sound_ops', (client) =>
    client.query(
      `UPDATE work_orders SET title = $1 || ' ' || id, status = 'open', done_at = NULL, due_on = '2000-02-02'
       WHERE id IN (SELECT id FROM work_orders WHERE status = 'done' ORDER BY id LIMIT 2)`,
      [title],
    ),
  );
  const page = await pageOf(browser, 'supervisor');
  await page.goto(upkeep);
  const card = paneOf(page, 'Overdue').getByRole('link', { name: /open the records/ });
  const number = async (): Promise<number> => Number(/\d+/.exec((await card.textContent()) ?? '')?.[0]);
  const before = await number();
  await card.click();
  const drill = page.getByRole('dialog', { name: 'Overdue' });
  await drill.getByLabel('Search work orders').fill(title);
  await expect(drill.locator('tbody tr')).toHaveCount(2);
  const bar = drill.getByRole('toolbar', { name: 'What can be done to work orders' });
  // Those of other pages are no part of what is marked here.
  await expect(bar.getByRole('button', { name: /^Mark all/ })).toHaveCount(0);
  await drill.getByLabel('Mark those of this page').check();
  await bar.getByRole('button', { name: 'Set done' }).click();
  await page.getByRole('dialog', { name: 'Set done' }).getByRole('button', { name: 'Set done' }).click();
  await expect(notice(page)).toContainText('Set done: 2 work orders.');
  await expect(drill).toContainText(`No work orders contain “${title}”`);
  await page.keyboard.press('Escape');
  await expect.poll(number).toBe(before - 2);
  await page.context().close();
});

test('by keyboard alone a record is marked, deferred and undone, and one of its fields changed where it stands', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'supervisor');
  await page.goto(upkeep);
  const row = rows(page).nth(4);
  const before = (await row.textContent()) ?? '';
  await row.focus();
  await page.keyboard.press('Space');
  await expect(row.getByRole('checkbox')).toBeChecked();
  await page.keyboard.press('a');
  await page.keyboard.press('Tab');
  await expect(list(page).getByRole('button', { name: 'Defer' })).toBeFocused();
  await page.keyboard.press('Enter');
  const asks = page.getByRole('dialog', { name: 'Defer' });
  await expect(asks.getByLabel('Due')).toBeVisible();
  await asks.getByLabel('Due').focus();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('the day after');
  await page.keyboard.press('Enter');
  await expect(asks.getByRole('alert')).toContainText('“the day after” is not a date');
  await page.keyboard.press('Control+A');
  await page.keyboard.type('15 Jan 2031');
  await page.keyboard.press('Enter');
  await expect(notice(page)).toContainText('Defer: 1 work order.');
  await notice(page).getByRole('button', { name: 'Undo' }).focus();
  await page.keyboard.press('Enter');
  await expect(notice(page)).toContainText('Undo of “Defer”: 1 work order.');
  // The record stands where it stood.
  await expect(row).toHaveText(before);

  await row.focus();
  const isLow = /Low/.test((await row.getByRole('cell').nth(4).textContent()) ?? '');
  await page.keyboard.press('F2');
  await page.keyboard.press('Enter');
  const place = page.getByRole('dialog', { name: /^Priority of / });
  await expect(place.getByLabel('Priority')).toBeVisible();
  await place.getByLabel('Priority').focus();
  await page.keyboard.press('Enter');
  // The list has the keyboard once it has opened.
  await expect(page.getByRole('option', { selected: true })).toBeFocused();
  await page.keyboard.press('Home');
  await expect(page.getByRole('option').first()).toBeFocused();
  if (isLow) await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option').nth(isLow ? 1 : 0)).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(place.getByLabel('Priority')).toHaveText(isLow ? 'Normal' : 'Low');
  await place.getByRole('button', { name: 'Change it' }).focus();
  await page.keyboard.press('Enter');
  await expect(notice(page)).toContainText('Change priority: 1 work order.');
  await expect(place).toHaveCount(0);
  await page.context().close();
});

test('what is begun in a row goes to its record, wherever that stands by the time that it is sent', async ({
  browser,
}) => {
  const [first, second] = [unique('Anchor light'), unique('Bilge alarm')];
  await withDatabase('sound_ops', (client) =>
    client.query(
      `UPDATE work_orders AS o SET title = n.title, due_on = n.due, status = 'open', done_at = NULL, priority = 'urgent'
       FROM (SELECT id, CASE at WHEN 1 THEN $1 ELSE $2 END AS title, CASE at WHEN 1 THEN date '2001-01-01' ELSE date '2001-01-02' END AS due
             FROM (SELECT id, row_number() OVER (ORDER BY id DESC) AS at FROM work_orders) AS numbered WHERE at <= 2) AS n
       WHERE o.id = n.id`,
      [first, second],
    ),
  );
  const [page, other] = [await pageOf(browser, 'supervisor'), await pageOf(browser, 'supervisor')];
  for (const each of [page, other]) {
    await each.goto(upkeep);
    await expect(rows(each).nth(1)).toContainText(second);
  }
  const own = rows(page).filter({ hasText: second });
  await own.focus();
  await page.keyboard.press('F2');
  await page.keyboard.press('Enter');
  const place = page.getByRole('dialog', { name: `Priority of ${second}` });
  await choose(place.getByLabel('Priority'), 'Low');

  // Somebody else finishes the one above it meanwhile, so that all move up by one.
  await rows(other).filter({ hasText: first }).getByRole('checkbox').click();
  await list(other).getByRole('button', { name: 'Set done' }).click();
  await other.getByRole('dialog', { name: 'Set done' }).getByRole('button', { name: 'Set done' }).click();
  await expect(rows(page).first()).toContainText(second);
  await place.getByRole('button', { name: 'Change it' }).click();
  await expect(notice(page)).toContainText('Change priority: 1 work order.');
  await expect(own).toContainText('Low');
  await page.context().close();
  await other.context().close();
});

test('two people on one record: the later one sees both and chooses; nobody’s work is lost', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'supervisor');
  await page.goto(upkeep);
  const row = rows(page).nth(7);
  await row.hover();
  await row.getByRole('button', { name: /^Change estimate of / }).click();
  const place = page.getByRole('dialog', { name: /^Estimate of / });
  await place.getByLabel('Estimate').fill('99');
  // The record is found by its place in the same order.
  await withDatabase('sound_ops', (client) =>
    client.query(
      `UPDATE work_orders SET estimate_hours = '77' WHERE id = (SELECT id FROM work_orders WHERE status <> 'done' ORDER BY due_on, id OFFSET 7 LIMIT 1)`,
    ),
  );
  await place.getByRole('button', { name: 'Change it' }).click();
  await expect(place.getByRole('alert')).toContainText('somebody changed it meanwhile: estimate is “77” now');
  await place.getByRole('button', { name: 'Cancel' }).click();
  await page.keyboard.press('r');
  await expect(row).toContainText('77');

  await row.getByRole('checkbox').click();
  await list(page).getByRole('button', { name: 'Defer' }).click();
  const asks = page.getByRole('dialog');
  await asks.getByLabel('Due').fill('15 Jan 2031');
  await withDatabase('sound_ops', (client) =>
    client.query(
      `UPDATE work_orders SET status = CASE status WHEN 'planned' THEN 'open' ELSE 'planned' END WHERE estimate_hours = '77' AND status <> 'done'`,
    ),
  );
  await asks.getByRole('button', { name: 'Defer' }).click();
  await expect(asks).toContainText('Somebody changed one of them meanwhile. Nothing was done.');
  await expect(asks).toContainText(/Status: you saw “.+”, it is “(Planned|Open)” now/);
  await asks.getByRole('button', { name: 'Defer all the same' }).click();
  await expect(notice(page)).toContainText('Defer: 1 work order.');
  await page.context().close();
});

test('an analyst names who changes records, makes an action, offers it, and its history stands on the record', async ({
  analyst,
  browser,
}) => {
  const role = unique('quay').replace(' ', '_');
  await withDatabase('postgres', (client) =>
    client.query(`CREATE ROLE ${role} LOGIN PASSWORD 'high-water'; GRANT sound_operator TO ${role}`),
  );
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Sound operations' }).click();
  const changer = analyst.getByRole('region', { name: 'Changing records' });
  await changer.getByRole('button', { name: 'Name another' }).click();
  await changer.getByLabel('User that changes records').fill(role);
  await changer.getByLabel('Its password').fill('low-water');
  await changer.getByRole('button', { name: 'Test and save' }).click();
  await expect(changer.getByRole('alert')).toContainText(/password authentication failed/i);
  await changer.getByLabel('Its password').fill('high-water');
  await changer.getByRole('button', { name: 'Test and save' }).click();
  await expect(changer).toContainText(`As ${role}`);

  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Incidents', exact: true }).click();
  await analyst
    .getByRole('navigation', { name: 'This data set' })
    .getByRole('link', { name: 'Changes' })
    .click();
  await analyst.getByRole('button', { name: 'Make an action' }).click();
  const label = unique('Settle');
  await analyst.getByLabel('On its button').fill(label);
  await choose(analyst.getByLabel('Set a field'), 'Settled');
  await choose(analyst.getByLabel('Settled becomes'), 'the moment it is done');
  await analyst.getByRole('button', { name: 'Keep only some' }).click();
  await choose(analyst.getByLabel('Field', { exact: true }), 'Settled');
  await choose(analyst.getByLabel('Test', { exact: true }), 'is blank');
  await expect(analyst.getByText('On 1 incident, settled becomes this moment.').first()).toBeVisible();
  await analyst.getByRole('button', { name: 'Save the action' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();

  // Another asks when, and a rule says what that may not be.
  const late = unique('Settled earlier');
  await analyst.getByRole('button', { name: 'Make an action' }).click();
  await analyst.getByLabel('On its button').fill(late);
  await choose(analyst.getByLabel('Set a field'), 'Settled');
  await choose(analyst.getByLabel('Settled becomes'), 'what the person says');
  await analyst.getByRole('button', { name: 'Save the action' }).click();
  await analyst.getByRole('button', { name: 'Add a rule' }).click();
  await choose(analyst.getByLabel('This field'), 'Settled');
  await choose(analyst.getByLabel('Must be'), 'not before');
  await choose(analyst.getByLabel('This one'), 'Reported');
  await analyst.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(analyst.getByText('Settled must not be before reported')).toBeVisible();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();

  const title = unique('Incident desk');
  await startDashboard(analyst, title);
  await addPane(analyst, 'Incidents', /Which records\?/);
  await analyst.getByRole('checkbox', { name: label }).check();
  await analyst.getByRole('checkbox', { name: late }).check();
  await analyst.getByRole('button', { name: 'Save the brief' }).click();
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();

  const supervisor = await pageOf(browser, 'supervisor');
  await supervisor.goto('/desk/skerry-sound');
  await supervisor.getByRole('navigation', { name: 'Dashboards' }).getByRole('link', { name: title }).click();
  const incidents = paneOf(supervisor, 'Incidents');
  const open = incidents.locator('tbody tr').filter({ hasText: '—' }).first();
  await open.dblclick();
  const drill = supervisor.getByRole('dialog');
  await drill
    .getByRole('toolbar', { name: 'What can be done to it' })
    .getByRole('button', { name: label })
    .click();
  await supervisor.getByRole('dialog', { name: label }).getByRole('button', { name: label }).click();
  await expect(notice(supervisor)).toContainText(`${label}: 1 incident.`);
  await expect(supervisor.getByRole('region', { name: 'What was done to it' })).toContainText(label);

  const tools = drill.getByRole('toolbar', { name: 'What can be done to it' });
  await tools.getByRole('button', { name: late }).click();
  const asks = supervisor.getByRole('dialog', { name: late });
  const rule = 'Settled must not be before reported';
  await asks.getByLabel('Settled').fill('1 Jan 2001');
  await expect(asks).not.toContainText(rule);
  await supervisor.keyboard.press('Tab');
  await expect(asks).toContainText(rule);
  // What is wrong with it is said of what was sent, and of nothing that was typed meanwhile.
  await asks.getByRole('button', { name: late }).click();
  await asks.getByLabel('Settled').fill('1 Jan 2031');
  await expect(asks).not.toContainText(rule);
  await asks.getByRole('button', { name: late }).click();
  await expect(notice(supervisor)).toContainText(`${late}: 1 incident.`);
  await supervisor.context().close();

  await analyst.goto('/workroom/changes');
  await analyst.getByLabel('Find by person, action, pane or record').fill(label);
  await analyst.getByRole('button', { name: 'Find', exact: true }).click();
  await expect(analyst.getByRole('row').nth(1)).toContainText('Done');
});

test('by which calls a service is told of changes is taken from its OpenAPI document, and looked at before it is saved', async ({
  analyst,
}) => {
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Passages', exact: true }).click();
  await analyst
    .getByRole('navigation', { name: 'This data set' })
    .getByRole('link', { name: 'Changes' })
    .click();
  const told = analyst.getByRole('region', { name: 'How the service is told' });
  await told.getByRole('button', { name: 'Change' }).click();
  await told.getByRole('button', { name: 'Take them from an OpenAPI document' }).click();
  const document = told.getByLabel('An OpenAPI 3 document');
  await document.fill('openapi: [');
  await expect(told).toContainText('It is neither JSON nor YAML');
  await document.fill('openapi: 3.0.3\npaths:\n  /v1/sailings: { post: {} }');
  await expect(told).toContainText('It describes no call that changes what stands at “passages”.');
  await document.fill(
    'openapi: 3.0.3\npaths:\n  /v1/passages: { get: {}, post: {} }\n  /v1/passages/{ref}: { put: {}, delete: {} }',
  );
  await expect(told.getByRole('status')).toContainText('Look at them, then save.');
  await expect(told.getByLabel('Path where passages are removed')).toHaveValue('passages/{passage_ref}');
  await expect(told.getByLabel('Path where passages are added')).toHaveValue('passages');
  await expect(told.getByRole('button', { name: 'Save the calls' })).toBeEnabled();
  await told.getByRole('button', { name: 'Cancel' }).click();
});

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
