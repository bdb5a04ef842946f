import { addPane, publishDraft } from './support/build.ts';
import { copyOfDashboard, unique } from './support/make.ts';
import { choose, databaseServer, expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

test('an analyst connects a source and makes a data set of a table', async ({ analyst }) => {
  const server = databaseServer();
  await withDatabase('postgres', async (client) => {
    await client.query("CREATE ROLE harbour_reads LOGIN PASSWORD 'spring-tide'");
  });
  await withDatabase('sound_ops', (client) =>
    client.query('GRANT SELECT ON ALL TABLES IN SCHEMA public TO harbour_reads'),
  );

  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Add a source' }).first().click();
  await analyst.getByLabel('Name').fill('Harbour copy');
  await analyst.getByLabel('Address').fill(server.hostname);
  await analyst.getByLabel('Port').fill(server.port);
  await analyst.getByLabel('Database').fill('sound_ops');
  await analyst.getByLabel('User').fill('harbour_reads');
  await analyst.getByLabel('Password').fill('neap-tide');
  await analyst.getByRole('button', { name: 'Test and add' }).click();
  await expect(analyst.getByRole('alert')).toContainText(/password authentication failed/i);
  await expect(analyst.getByLabel('Database')).toHaveValue('sound_ops');
  await analyst.getByLabel('Password').fill('spring-tide');
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(analyst.getByRole('region', { name: 'What was found' })).toContainText('7 tables and views');
  await analyst.getByLabel('Password').fill('spring-tide');
  await analyst.getByRole('button', { name: 'Test and add' }).dblclick();
  await expect(analyst.getByRole('heading', { name: 'Harbour copy' })).toBeVisible();
  expect(await analyst.content()).not.toContain('spring-tide');

  await analyst.getByLabel('Find a table or column').fill('severity');
  await analyst.getByRole('link', { name: /incidents/ }).click();
  await expect(
    analyst.getByRole('region', { name: 'Some of its records' }).getByRole('row').nth(1),
  ).toBeVisible();
  await analyst.goto(`${analyst.url().replace(/\?.*/, '')}?table=public.sailings`);
  await analyst.getByRole('link', { name: 'Make a data set' }).last().click();

  await expect(analyst.getByRole('region', { name: 'Its records' }).getByRole('row').nth(1)).toBeVisible();
  await expect(analyst.getByLabel(/route_id → its name in routes/)).toBeChecked();
  await analyst.getByLabel('master_id', { exact: true }).uncheck();
  await analyst.getByLabel('Label of departs_at').fill('Leaves');
  await analyst.getByRole('button', { name: 'Add a measure' }).click();
  await choose(analyst.getByLabel('Compute'), 'sum of');
  await choose(analyst.getByLabel('Of the field'), 'Fares');
  await analyst.getByLabel('Called').fill('fares taken');
  await analyst.getByRole('button', { name: 'Add it' }).click();
  await analyst.getByLabel('Name', { exact: true }).fill('Crossings “🚢” مرسى');
  await analyst.getByRole('button', { name: 'Save data set' }).click();
  await expect(analyst.getByRole('heading', { name: /Crossings/ })).toBeVisible();
});

test('an analyst asks, lays out, publishes, and a reader reads it', async ({ analyst, browser }) => {
  await analyst.goto('/workroom/dashboards/new');
  await analyst.getByLabel('Title').fill('Harbour board');
  await analyst.getByRole('button', { name: 'Start' }).dblclick();
  await expect(analyst.getByText('An empty sheet')).toBeVisible();

  const add = async (question: RegExp, title: string): Promise<void> => {
    await addPane(analyst, 'Sailings', question);
    await expect(analyst.getByRole('region', { name: 'The brief' })).toBeVisible();
    await analyst.getByLabel('Title', { exact: true }).fill(title);
  };
  const saveBrief = async (): Promise<void> => {
    await analyst.getByRole('button', { name: 'Save the brief' }).click();
    await expect(analyst.getByRole('toolbar', { name: 'Draft' })).toBeVisible();
  };

  await add(/How many\?/, 'All crossings');
  await analyst.getByRole('button', { name: 'sailings', exact: true }).click();
  await analyst.getByRole('button', { name: /fares taken/ }).click();
  await expect(analyst.getByRole('region', { name: 'As readers will see it' })).toContainText(/\d/);
  await saveBrief();

  await add(/How is it split\?/, 'By route');
  await analyst.getByRole('region', { name: 'The brief' }).getByRole('button', { name: 'status' }).click();
  await analyst.getByRole('button', { name: 'route', exact: true }).click();
  await expect(analyst.getByRole('region', { name: 'The brief' })).toContainText(
    'Draw bars of sailings by route',
  );
  await saveBrief();

  await add(/How does it change\?/, 'Week by week');
  await saveBrief();
  await add(/Which records\?/, 'The list');
  await saveBrief();
  await add(/What about this one\?/, 'This crossing');
  await saveBrief();

  await analyst.getByRole('button', { name: 'Reader filters' }).click();
  await choose(analyst.getByLabel('Another: by'), 'route');
  await analyst.getByRole('button', { name: 'Add filter' }).click();
  await expect(analyst.getByRole('button', { name: 'All routes', exact: true })).toBeVisible();
  await analyst.keyboard.press('Escape');

  await analyst.getByRole('button', { name: 'Arrange' }).click();
  const movable = analyst.getByRole('region', { name: /^All crossings: / });
  await movable.focus();
  await analyst.keyboard.press('Shift+ArrowRight');
  await expect(movable).toHaveAccessibleName(/4 wide/);
  await analyst.keyboard.press('Shift+ArrowDown');
  await expect(movable).toHaveAccessibleName(/5 high/);
  const box = await analyst.getByRole('region', { name: /^By route: / }).boundingBox();
  if (!box) throw new Error('not on the page');
  await analyst.mouse.move(box.x + 80, box.y + 60);
  await analyst.mouse.down();
  await analyst.mouse.move(box.x + 320, box.y + 70, { steps: 8 });
  await analyst.mouse.up();
  await analyst.getByRole('button', { name: 'Done arranging' }).click();

  await expect(paneOf(analyst, 'The list').getByRole('row').nth(1)).toBeVisible();
  await paneOf(analyst, 'The list').getByRole('row').nth(1).click();
  await expect(paneOf(analyst, 'This crossing')).toContainText('SK-');

  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/harbour-board');
  await expect(reader.getByRole('heading', { name: 'There is no such dashboard' })).toBeVisible();
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();
  await reader.goto('/desk/skerry-sound/harbour-board');
  await expect(paneOf(reader, 'The list').getByRole('row').nth(1)).toBeVisible();
  await reader.context().close();
});

test('a data set from SQL finds its inputs, is tried with samples, and refuses what is not one SELECT', async ({
  analyst,
}) => {
  await analyst.goto('/workroom/data-sets/new');
  await analyst.getByRole('link', { name: 'Sound operations' }).click();
  await analyst.getByRole('button', { name: 'Write SQL' }).click();
  const editor = analyst.getByRole('textbox', { name: 'SQL' });
  // A word that is whole stays as it is, although longer ones begin with it.
  await editor.click();
  await analyst.keyboard.type('SELECT crew', { delay: 20 });
  await expect(analyst.getByRole('option', { name: 'crew', exact: true, selected: true })).toBeVisible();
  // The list takes a key only once it has stood for a moment, as it has for a person.
  await analyst.waitForTimeout(200);
  await analyst.keyboard.press('Enter');
  await expect(editor.locator('.cm-line')).toHaveText(['SELECT crew', '']);
  await analyst.keyboard.press('Tab');
  await expect(editor).not.toBeFocused();
  const write = async (text: string): Promise<void> => {
    await editor.click();
    await analyst.keyboard.press('Control+a');
    await analyst.keyboard.insertText(text);
  };
  const records = analyst.getByRole('region', { name: 'Its records' });
  await write('SELECT 1; DROP TABLE sailings');
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(records.getByRole('alert')).toContainText('It holds 2 statements');
  await write('DELETE FROM sailings');
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(records.getByRole('alert')).toContainText('It is not a SELECT');
  await write(
    'SELECT id, reference, delay_minutes FROM sailings WHERE delay_minutes > :least ORDER BY id DESC',
  );
  await expect(analyst.getByText('Written :least', { exact: true })).toBeVisible();
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(records.getByRole('alert')).toContainText('The input “least” has no sample value');
  await choose(analyst.getByLabel('Type of least'), 'integer');
  await analyst.getByLabel('Sample of least').fill('30');
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(records.getByRole('row').nth(1)).toContainText('SK-');
  await analyst.getByLabel('Name', { exact: true }).fill('Very late');
  await analyst.getByRole('button', { name: 'Save data set' }).click();
  await expect(analyst.getByRole('heading', { name: 'Very late' })).toBeVisible();
});

test('a column that goes away is named, with what depends on it, and the other panes work', async ({
  analyst,
}) => {
  await withDatabase('sound_ops', (client) =>
    client.query('ALTER TABLE work_orders RENAME COLUMN priority TO urgency'),
  );
  await analyst.goto('/desk/skerry-sound/vessel-upkeep');
  await expect(paneOf(analyst, 'Unfinished orders by vessel and priority').getByRole('alert')).toContainText(
    'priority does not exist',
  );
  await expect(paneOf(analyst, 'Overdue').getByRole('link', { name: /open the records/ })).toBeVisible();
  await withDatabase('sound_ops', (client) =>
    client.query('ALTER TABLE work_orders RENAME COLUMN urgency TO priority'),
  );
  await paneOf(analyst, 'Unfinished orders by vessel and priority')
    .getByRole('button', { name: 'Try again' })
    .click();
  await expect(paneOf(analyst, 'Unfinished orders by vessel and priority').getByRole('alert')).toHaveCount(0);
});

test('a source that goes away while a page is open: its panes say so, and mend by themselves when it is back', async ({
  analyst,
}) => {
  await analyst.goto('/desk/skerry-sound/morning-brief');
  const card = paneOf(analyst, 'Sailings today');
  await expect(card.getByRole('link', { name: /open the records/ })).toBeVisible();
  await withDatabase('postgres', async (client) => {
    await client.query('ALTER DATABASE sound_ops ALLOW_CONNECTIONS false');
    await client.query("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = 'sound_ops'");
  });
  await analyst.keyboard.press('r');
  await expect(card.getByRole('alert')).toContainText('not currently accepting connections');
  await withDatabase('postgres', (client) => client.query('ALTER DATABASE sound_ops ALLOW_CONNECTIONS true'));
  await expect(card.getByRole('link', { name: /open the records/ })).toBeVisible();
});

test('readers are offered their own records, and removing the offer leaves the keyboard where it was', async ({
  analyst,
}) => {
  const { address } = await copyOfDashboard('vessel-upkeep', unique('Upkeep by person'));
  await analyst.goto(address);
  const open = analyst.getByRole('button', { name: 'Reader filters' });
  await open.click();
  const filters = analyst.getByRole('dialog', { name: 'Reader filters' });
  await choose(filters.getByLabel('Another: by'), 'given to');
  await choose(filters.getByLabel('Readers choose'), 'theirs or all, by their name');
  await expect(filters.getByText('“all work orders”')).toBeVisible();
  await filters.getByRole('button', { name: 'Add filter' }).click();
  await expect(filters.getByText('· at first all work orders')).toBeVisible();
  await analyst.keyboard.press('Escape');

  const scope = analyst.getByRole('region', { name: 'What this page shows' });
  await scope.getByRole('button', { name: 'all work orders' }).click();
  await analyst.getByRole('button', { name: 'My work orders' }).click();
  await expect(analyst).toHaveURL(/work-orders=%7Eme\.name|work-orders=~me\.name/);
  await expect(scope.getByRole('button', { name: 'my work orders' })).toBeVisible();
  // Exactly those that were given to whoever is signed in, and nothing else narrows them.
  const theirs = await withDatabase('sound_ops', async (client) => {
    const { rows } = await client.query<{ count: string }>(
      `SELECT count(*) FROM work_orders AS o JOIN crew AS c ON c.id = o.assigned_to
        WHERE c.name = 'Magnus Drever' AND o.status <> 'done'`,
    );
    return rows[0]?.count ?? '';
  });
  expect(Number(theirs)).toBeGreaterThan(0);
  await expect(paneOf(analyst, 'Unfinished').getByText(theirs, { exact: true })).toBeVisible();

  // By keyboard: the filter goes, and the focus stays in the list it was in.
  await open.click();
  await filters.getByRole('button', { name: 'Remove work orders' }).focus();
  await analyst.keyboard.press('Enter');
  await analyst
    .getByRole('dialog', { name: /^Remove/ })
    .getByRole('button', { name: 'Remove', exact: true })
    .focus();
  await analyst.keyboard.press('Enter');
  await expect(filters.getByText('· at first all work orders')).toBeHidden();
  await expect(filters.locator(':focus')).toHaveCount(1);
});
