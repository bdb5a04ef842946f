import { addPane, publishDraft } from './support/build.ts';
import { choose, expect, pageOf, paneOf, signIn, test } from './support/people.ts';

test('an analyst says how values are written, and readers see words, units, widths and targets', async ({
  analyst,
  browser,
}) => {
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Sound operations' }).click();
  const tables = analyst.getByRole('region', { name: 'What is there' });
  await tables.getByRole('link', { name: /work_orders/ }).click();
  await expect(
    analyst.getByRole('region', { name: 'Some of its records' }).getByRole('row').nth(1),
  ).toBeVisible();
  await analyst.getByRole('link', { name: 'Make a data set' }).last().click();
  const records = analyst.getByRole('region', { name: 'Its records' });
  await expect(records.getByRole('row').nth(1)).toBeVisible();

  await analyst.getByRole('button', { name: 'How status is written' }).click();
  await analyst
    .getByRole('group', { name: 'States' })
    .getByRole('button', { name: 'Find its values' })
    .click();
  await analyst.getByLabel('Word for done').fill('All finished');
  await choose(analyst.getByLabel('Tone of done'), 'settled');
  await expect(records).toContainText('All finished');
  await analyst.getByRole('button', { name: 'How due_on is written' }).click();
  await choose(analyst.getByLabel('Written as'), '2026-11-23');
  await analyst.getByLabel('What it means').fill('The day it was promised for');

  await analyst.getByRole('button', { name: 'Add a measure' }).click();
  await choose(analyst.getByLabel('Compute'), 'percentile of');
  await choose(analyst.getByLabel('Of the field'), 'Cost');
  await analyst.getByLabel('Percentile', { exact: true }).fill('75');
  await analyst.getByLabel('Called').fill('cost, three in four');
  await analyst.getByLabel('Target').fill('soon');
  await expect(analyst.getByText('“soon” is not a number')).toBeVisible();
  await expect(analyst.getByRole('button', { name: 'Add it' })).toBeDisabled();
  await analyst.getByLabel('Target').fill('650');
  await choose(analyst.getByLabel('Good is'), 'less');
  await analyst.getByRole('button', { name: 'Add it' }).click();
  await analyst.getByRole('button', { name: 'Change cost, three in four' }).click();
  await analyst.getByLabel('Unit').last().fill('£');
  await analyst.getByRole('button', { name: 'Done', exact: true }).click();
  await analyst.getByLabel('Name', { exact: true }).fill('Orders as written');

  // The session ends before the save: the edit waits for the password and is kept.
  await analyst.context().clearCookies({ name: 'slate_session' });
  await analyst.getByRole('button', { name: 'Save data set' }).click();
  const again = analyst.getByRole('dialog', { name: 'You have been signed out' });
  await again.getByLabel('E-mail address').fill('analyst@skerry.example');
  await again.getByLabel('Password').fill('low-water-0640');
  await again.getByRole('button', { name: 'Sign in' }).click();
  await expect(analyst.getByRole('heading', { name: 'Orders as written' })).toBeVisible();

  await analyst.getByRole('link', { name: 'Start a dashboard' }).click();
  await analyst.getByLabel('Title', { exact: true }).fill('As written');
  await analyst.getByRole('button', { name: 'Start' }).click();
  const add = async (question: RegExp): Promise<void> => {
    await addPane(analyst, 'Orders as written', question);
    await expect(analyst.getByRole('region', { name: 'The brief' })).toBeVisible();
  };
  const brief = analyst.getByRole('region', { name: 'The brief' });
  await add(/How many\?/);
  await brief.getByRole('button').first().click();
  await analyst.getByRole('button', { name: /cost, three in four/ }).click();
  await analyst.getByLabel('Title', { exact: true }).fill('Cost');
  await expect(analyst.getByRole('region', { name: 'As readers will see it' })).toContainText('target 650');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();
  await add(/Which records\?/);
  await brief
    .getByRole('button', { name: /more$|,| and / })
    .first()
    .click();
  await analyst.getByRole('button', { name: /^How Due on is shown/ }).click();
  await analyst.getByLabel('Heading').fill('Promised');
  await analyst.getByLabel('Width in pixels').fill('333');
  await analyst.getByLabel('Heading').focus();
  await analyst.keyboard.press('Escape');
  await analyst.getByLabel('Title', { exact: true }).fill('Orders');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();

  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/as-written');
  const table = paneOf(reader, 'Orders');
  await expect(paneOf(reader, 'Cost')).toContainText('target 650');
  const heading = table.getByRole('columnheader', { name: 'Promised' });
  await expect(heading.getByRole('button')).toHaveAttribute('title', 'The day it was promised for');
  expect((await heading.boundingBox())?.width).toBeGreaterThan(320);
  await expect(table.getByRole('cell', { name: /^\d{4}-\d{2}-\d{2}$/ }).first()).toBeVisible();

  // What a reader leaves out is in the address, so a link shows a colleague the same columns.
  await table.getByRole('button', { name: 'Choose columns' }).click();
  await reader.getByRole('checkbox', { name: 'Promised' }).click();
  await expect(heading).toHaveCount(0);
  await reader.keyboard.press('Escape');
  const link = reader.url();
  const colleague = await pageOf(browser, null);
  await signIn(colleague, 'supervisor');
  await colleague.goto(link);
  await expect(paneOf(colleague, 'Orders').getByRole('columnheader').first()).toBeVisible();
  await expect(paneOf(colleague, 'Orders').getByRole('columnheader', { name: 'Promised' })).toHaveCount(0);
  await colleague.context().close();
  await reader.context().close();
});
