import { copyOfDashboard, unique } from './support/make.ts';
import { expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/*
 * Our own database cannot write any more. The server has a disk that the demo shares, so it is not filled: each table says what PostgreSQL says
 * of a full one (53100).
 */

const onEachTable = (what: string): string =>
  `DO $$ DECLARE t record; BEGIN
     FOR t IN SELECT tablename FROM pg_tables WHERE schemaname = 'public' LOOP EXECUTE format('${what}', t.tablename); END LOOP;
   END $$`;

test('with its own database full, what is there is read, and what cannot be saved is told and not lost', async ({
  analyst,
  browser,
}) => {
  const title = unique('Before it was full');
  const { address } = await copyOfDashboard('vessel-upkeep', title);
  const [reader, supervisor] = [await pageOf(browser, 'reader'), await pageOf(browser, 'supervisor')];
  await supervisor.goto('/desk/skerry-sound/vessel-upkeep');
  await analyst.goto(address);
  const orders = paneOf(supervisor, 'Unfinished orders, longest due first');
  await expect(orders.locator('tbody tr').nth(1)).toBeVisible();
  const count = async (): Promise<string | undefined> =>
    /of ([\d,]+) work orders/.exec((await orders.textContent()) ?? '')?.[1];
  const before = await count();
  await withDatabase('postgres', async (client) => {
    await client.query(`CREATE OR REPLACE FUNCTION no_room() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      RAISE EXCEPTION USING ERRCODE = '53100', MESSAGE = 'could not extend file "base/5/2619": No space left on device'; END $$`);
    await client.query(
      onEachTable('CREATE TRIGGER full_disk BEFORE INSERT OR UPDATE ON %I EXECUTE FUNCTION no_room()'),
    );
  });
  try {
    await reader.goto('/desk/skerry-sound/morning-brief');
    await expect(paneOf(reader, 'Sailings today')).toContainText(/\d/);

    const row = orders.locator('tbody tr').first();
    await row.getByRole('checkbox').click();
    await orders.getByRole('button', { name: 'Set done' }).click();
    const asks = supervisor.getByRole('dialog', { name: 'Set done' });
    await asks.getByRole('button', { name: 'Set done' }).click();
    await expect(asks).toContainText('he disk of Slate Glass’s own database is full');
    await asks.getByRole('button', { name: 'Cancel' }).click();
    expect(await count()).toBe(before);

    const name = analyst.getByLabel('Title of the dashboard');
    await name.fill(`${title}, later`);
    await name.press('Enter');
    await expect(analyst.getByRole('alert')).toContainText('This is not saved yet.');
    await expect(analyst.getByRole('alert')).toContainText('The disk of Slate Glass’s own database is full.');
    await expect(name).toHaveValue(`${title}, later`);
  } finally {
    await withDatabase('postgres', async (client) => {
      await client.query(onEachTable('DROP TRIGGER IF EXISTS full_disk ON %I'));
      await client.query('DROP FUNCTION no_room');
    });
  }
  // What was typed is saved once there is room.
  await analyst.getByRole('button', { name: 'Save it again' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await expect(analyst.getByRole('alert')).toHaveCount(0);

  // The same where nothing answers at all.
  await analyst.context().setOffline(true);
  const name = analyst.getByLabel('Title of the dashboard');
  await name.fill(`${title}, at last`);
  await name.press('Enter');
  await expect(analyst.getByRole('alert')).toContainText('This server cannot be reached just now.');
  await analyst.context().setOffline(false);
  await analyst.getByRole('button', { name: 'Save it again' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await analyst.reload();
  await expect(name).toHaveValue(`${title}, at last`);
  for (const each of [reader, supervisor]) await each.context().close();
});
