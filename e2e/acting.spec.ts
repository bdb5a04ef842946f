import type { Page } from '@playwright/test';
import { addPane, publishDraft, startDashboard } from './support/build.ts';
import { unique } from './support/make.ts';
import { choose, expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';
import { list, notice, rows, upkeep } from './support/upkeep.ts';

/* Records are changed where they come from: by mouse, by keyboard alone, and by two people at once. */

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
