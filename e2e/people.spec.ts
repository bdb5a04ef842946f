import type { Browser, Page } from '@playwright/test';
import { generate } from 'otplib';
import { publishDraft } from './support/build.ts';
import { copyOfDashboard, dataSetWithSteps, unique } from './support/make.ts';
import { choose, expect, pageOf, test, withDatabase } from './support/people.ts';

const password = 'four words of hers';

/** Asks somebody in, with what is filled in on the form. Gives the path of their link. */
async function invited(admin: Page, email: string, fill: () => Promise<void>): Promise<string> {
  await admin.goto('/administration/people');
  await admin.getByLabel('Name', { exact: true }).fill('Ingrid Sclater');
  await admin.getByLabel('E-mail address').fill(email);
  await fill();
  await admin.getByRole('button', { name: 'Make the link' }).click();
  const link = await admin.locator('output').textContent();
  return new URL(link ?? '').pathname;
}

async function joined(browser: Browser, path: string): Promise<Page> {
  const page = await pageOf(browser, null);
  await page.goto(path);
  await page.getByLabel('A password').fill(password);
  await page.getByRole('button', { name: 'Join' }).click();
  await expect(page.getByRole('button', { name: 'You: Ingrid Sclater' })).toBeAttached();
  return page;
}

test('a second desk is set up, somebody is invited to it, and sees the records that are theirs alone', async ({
  browser,
}) => {
  const admin = await pageOf(browser, 'admin');
  const desk = unique('Harbour office');
  await admin.goto('/administration/desks');
  await admin.getByLabel('Name').fill(desk);
  await admin.getByRole('button', { name: 'Add desk' }).click();
  await expect(admin.getByRole('heading', { name: desk })).toBeVisible();
  await choose(admin.getByLabel('Colour of its edge'), 'Amber');
  await admin.getByRole('button', { name: 'Save' }).click();
  await expect(admin.getByText('Saved')).toBeVisible();

  // A dashboard of it, over a data set of its own.
  const name = unique('Crossings');
  const dataSet = await dataSetWithSteps('Sailings', name, []);
  await admin.goto(`/workroom/dashboards/new?of=${dataSet}`);
  await choose(admin.getByLabel('On which desk'), desk);
  await admin.getByLabel('Title', { exact: true }).fill('Crossings');
  await admin.getByRole('button', { name: 'Start' }).click();
  await publishDraft(admin);
  await expect(admin.getByText('Published: version 1')).toBeVisible();

  // Each is to see those of their vessels.
  await admin.goto(`/workroom/data-sets/${dataSet}/rules`);
  await admin.getByRole('button', { name: 'Limit to people’s own' }).click();
  await admin.getByRole('button', { name: 'Keep only some' }).click();
  await choose(admin.getByLabel('Field', { exact: true }), 'vessel');
  await choose(admin.getByLabel('Compared with'), 'what is theirs');
  await expect(admin.getByLabel('What is known of people')).toHaveValue('Vessel');
  await admin.getByRole('button', { name: 'Save the rule' }).click();
  await expect(admin.getByText('where vessel is among their vessel')).toBeVisible();

  const { rows } = await withDatabase('sound_ops', (client) =>
    client.query<{ name: string; count: string }>(
      'SELECT v.name, count(*) FROM sailings s JOIN vessels v ON v.id = s.vessel_id GROUP BY 1 ORDER BY 1 LIMIT 1',
    ),
  );
  const vessel = rows[0]?.name ?? '';
  const email = `${unique('ingrid').replace(' ', '-')}@skerry.example`;
  const path = await invited(admin, email, async () => {
    await choose(admin.getByLabel(`Role on ${desk}`), 'Reader: looks');
    await admin.getByRole('button', { name: 'Add one' }).click();
    await admin.getByLabel('What', { exact: true }).fill('Vessel');
    await admin.getByLabel('Values, with commas between').fill(vessel);
  });
  const ingrid = await joined(browser, path);
  await expect(ingrid.getByRole('navigation', { name: 'Dashboards' }).getByRole('link')).toHaveText([
    'Crossings',
  ]);
  const records = ingrid.getByRole('table').last();
  await expect(records.getByRole('cell', { name: vessel }).first()).toBeVisible();
  const others = await withDatabase('sound_ops', (client) =>
    client.query<{ name: string }>('SELECT name FROM vessels WHERE name <> $1', [vessel]),
  );
  for (const other of others.rows) await expect(ingrid.getByText(other.name)).toHaveCount(0);

  // The link is spent.
  const again = await pageOf(browser, null);
  await again.goto(path);
  await expect(again.getByRole('heading', { name: 'This link is no longer good' })).toBeVisible();
  await again.context().close();

  await withDatabase('postgres', async (client) => {
    await client.query("DELETE FROM dashboards WHERE draft->>'title' = 'Crossings'");
    await client.query('DELETE FROM desks WHERE name = $1', [desk]);
  });
  await admin.context().close();
  await ingrid.context().close();
});

test('whoever builds sees a page as somebody else gets it, with that person’s records and nothing to change', async ({
  browser,
}) => {
  const admin = await pageOf(browser, 'admin');
  const dataSet = await dataSetWithSteps('Sailings', unique('Crossings'), []);
  const title = unique('Crossings');
  await admin.goto(`/workroom/dashboards/new?of=${dataSet}`);
  await admin.getByLabel('Title', { exact: true }).fill(title);
  await admin.getByRole('button', { name: 'Start' }).click();
  await publishDraft(admin);
  await expect(admin.getByText('Published: version 1')).toBeVisible();
  const vessels = await withDatabase('sound_ops', async (client) => {
    const { rows } = await client.query<{ name: string }>('SELECT name FROM vessels ORDER BY name');
    return rows.map(({ name }) => name);
  });
  const [vessel = '', ...others] = vessels;
  const rule = { field: 'vessel', test: { op: 'against', is: 'same', to: { theirs: 'Vessel' } } };
  await withDatabase('postgres', async (client) => {
    await client.query(
      "UPDATE data_sets SET row_rule = $2, definition = jsonb_set(definition, '{rowRule}', $2) WHERE id = $1",
      [dataSet, JSON.stringify(rule)],
    );
    await client.query("UPDATE users SET attributes = $1 WHERE email = 'reader@skerry.example'", [
      JSON.stringify({ Vessel: [vessel] }),
    ]);
  });
  await admin.goto('/desk/skerry-sound');
  await admin.getByRole('link', { name: title }).click();
  const records = admin.getByRole('table').last();
  await expect(admin.getByRole('heading', { level: 1, name: title })).toBeAttached();
  await expect(records.getByRole('row').nth(1)).toBeVisible();
  await admin.getByRole('button', { name: /^You: / }).click();
  await admin.getByRole('menuitem', { name: 'See this desk as …' }).click();
  await admin.getByRole('button', { name: 'See it as Torquil Brae' }).click();
  await expect(admin.getByText('You see this as Torquil Brae, reader')).toBeVisible();
  await expect(records.getByRole('cell', { name: vessel }).first()).toBeVisible();
  for (const other of others) await expect(admin.getByText(other)).toHaveCount(0);
  await admin.getByRole('button', { name: 'Stop' }).click();
  await expect(admin.getByText('You see this as')).toHaveCount(0);
  await admin.goto('/administration/history');
  await expect(
    admin.getByRole('row', { name: /saw a desk as .*reader@skerry\.example/ }).first(),
  ).toBeVisible();
  await withDatabase('postgres', async (client) => {
    await client.query("UPDATE users SET attributes = '{}' WHERE email = 'reader@skerry.example'");
    await client.query("DELETE FROM dashboards WHERE draft->>'title' = $1", [title]);
  });
  await admin.context().close();
});

test('whoever is removed is signed out at once', async ({ browser }) => {
  const admin = await pageOf(browser, 'admin');
  const email = `${unique('ingrid').replace(' ', '-')}@skerry.example`;
  const path = await invited(admin, email, () =>
    choose(admin.getByLabel('Role on Skerry Sound'), 'Reader: looks'),
  );
  const ingrid = await joined(browser, path);
  await admin.goto(`/administration/people?find=${email}`);
  await admin.getByRole('link', { name: 'Ingrid Sclater' }).click();
  await admin.getByRole('button', { name: 'Remove Ingrid Sclater' }).click();
  await admin.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(admin.getByRole('heading', { name: 'People' })).toBeVisible();
  await ingrid.goto('/');
  await expect(ingrid).toHaveURL(/sign-in/);
  await admin.context().close();
  await ingrid.context().close();
});

test('a dashboard moves to another desk and back, menus are arranged by keyboard, and a desk is removed once it is empty', async ({
  browser,
}) => {
  const admin = await pageOf(browser, 'admin');
  const desk = unique('Pier office');
  await admin.goto('/administration/desks');
  await admin.getByLabel('Name').fill(desk);
  await admin.getByRole('button', { name: 'Add desk' }).click();
  await expect(admin.getByRole('heading', { name: desk })).toBeVisible();
  const address = admin.url();
  const [one, two] = [unique('Requests'), unique('Requests')];
  for (const title of [one, two]) await copyOfDashboard('requisitions', title);

  const saved = admin.getByText('Saved. Readers have it at once.');
  await admin.goto('/workroom/menu/skerry-sound');
  for (const title of [one, two]) {
    await choose(admin.getByLabel(`Move ${title} to another desk`), desk);
    await expect(admin.getByRole('link', { name: title })).toHaveCount(0);
  }
  await admin.goto(address);
  await admin.getByRole('link', { name: 'Arrange its menu' }).click();
  const titles = admin.getByRole('listitem').getByRole('link');
  await expect(titles).toHaveText([one, two]);
  await admin.getByRole('button', { name: `Move ${two}` }).focus();
  await admin.keyboard.press('Space');
  await expect(admin.getByText(`${two} is number 2 of 2.`)).toBeAttached();
  await admin.keyboard.press('ArrowUp');
  await expect(admin.getByText(`${two} is number 1 of 2.`)).toBeAttached();
  await admin.keyboard.press('Space');
  await expect(titles).toHaveText([two, one]);
  await expect(saved).toBeVisible();
  await admin.reload();
  await expect(titles).toHaveText([two, one]);

  const remove = async () => {
    await admin.goto(address);
    await admin.getByRole('button', { name: 'Remove the desk' }).click();
    await admin.getByRole('button', { name: 'Remove', exact: true }).click();
  };
  await remove();
  await expect(admin.getByText('Dashboards stand on this desk')).toBeVisible();
  await admin.getByRole('link', { name: 'Arrange its menu' }).click();
  for (const title of [one, two]) {
    await choose(admin.getByLabel(`Move ${title} to another desk`), 'Skerry Sound');
    await expect(admin.getByRole('link', { name: title })).toHaveCount(0);
  }
  await remove();
  await expect(admin.getByRole('heading', { name: 'Desks' })).toBeVisible();
  await expect(admin.getByText(desk)).toHaveCount(0);
  await withDatabase('postgres', (client) =>
    client.query("DELETE FROM dashboards WHERE draft->>'title' = ANY($1)", [[one, two]]),
  );
  await admin.context().close();
});

test('somebody changes their password and turns on a second step, by keyboard, and signs in with it', async ({
  browser,
}) => {
  const admin = await pageOf(browser, 'admin');
  const email = `${unique('ingrid').replace(' ', '-')}@skerry.example`;
  const path = await invited(admin, email, () =>
    choose(admin.getByLabel('Role on Skerry Sound'), 'Reader: looks'),
  );
  const ingrid = await joined(browser, path);
  await ingrid.goto('/account');

  await ingrid.getByLabel('Current password').fill('not this one');
  await ingrid.getByLabel('New password').fill('another low water');
  await ingrid.keyboard.press('Enter');
  await expect(ingrid.getByText('This is not your password.')).toBeVisible();
  await ingrid.getByLabel('Current password').fill(password);
  await ingrid.getByLabel('New password').fill('password123456');
  await ingrid.keyboard.press('Enter');
  await expect(ingrid.getByText('This password is on lists of known ones.')).toBeVisible();
  await ingrid.getByLabel('New password').fill('another low water');
  await ingrid.keyboard.press('Enter');
  await expect(ingrid.getByText('Changed. You are signed out everywhere else.')).toBeVisible();

  await ingrid.getByRole('button', { name: 'Turn on …' }).click();
  const secret = (await ingrid.getByText(/^[A-Z2-7]{32}$/).textContent()) ?? '';
  await ingrid.getByLabel('Code from your device').fill('000000');
  await ingrid.keyboard.press('Enter');
  await expect(ingrid.getByText('This code does not fit.')).toBeVisible();
  await ingrid.getByLabel('Code from your device').fill(await generate({ secret }));
  await ingrid.keyboard.press('Enter');
  await expect(ingrid.getByText('each signs you in once')).toBeVisible();
  const code =
    (await ingrid
      .getByRole('listitem')
      .filter({ hasText: /^[a-z2-9]{5}-[a-z2-9]{5}$/ })
      .first()
      .textContent()) ?? '';
  await ingrid.context().close();

  const again = await pageOf(browser, null);
  await again.goto('/sign-in');
  await again.getByLabel('E-mail address').fill(email);
  await again.getByLabel('Password').fill('another low water');
  await again.keyboard.press('Enter');
  await again.getByLabel('Code from your device').fill('123456');
  await again.keyboard.press('Enter');
  await expect(again.getByText('This code is wrong or has been used.')).toBeVisible();
  await again.getByLabel('Code from your device').fill(code);
  await again.keyboard.press('Enter');
  await expect(again.getByRole('navigation', { name: 'Dashboards' })).toBeVisible();

  // An administrator helps out whoever has lost the device and the codes.
  await admin.goto(`/administration/people?find=${encodeURIComponent(email)}`);
  await admin.getByRole('link', { name: 'Ingrid Sclater' }).click();
  await admin.getByRole('button', { name: 'Turn off' }).click();
  await admin.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(admin.getByText('Off. They turn it on')).toBeVisible();
  await admin.getByRole('button', { name: 'Sign out everywhere' }).click();
  await expect(admin.getByText('Nowhere.')).toBeVisible();
  await again.goto('/');
  await expect(again).toHaveURL(/sign-in/);
  await again.context().close();
  await admin.context().close();
});
