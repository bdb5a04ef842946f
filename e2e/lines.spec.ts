import { unique } from './support/make.ts';
import { choose, expect, pageOf, paneOf, test } from './support/people.ts';
import { removeRequisitions } from './support/stores.ts';

/* A record and what belongs to it, added in one go. */

test('a requisition is raised with its lines by keyboard, what is wrong stands at its line, and every page counts it', async ({
  browser,
}) => {
  const [page, other] = [await pageOf(browser, 'supervisor'), await pageOf(browser, 'reader')];
  for (const each of [page, other]) await each.goto('/desk/skerry-sound/requisitions');
  const [table, lines] = [
    paneOf(other, 'Requisitions, latest first'),
    paneOf(other, 'Lines of the requisition'),
  ];
  const counted = (): Promise<number[]> =>
    Promise.all(
      [table, lines].map(async (pane) => Number(/of ([\d,]+) /.exec((await pane.textContent()) ?? '')?.[1])),
    );
  await expect(table).toContainText(/of \d+ requisitions/);
  await expect(lines).toContainText(/of \d+ lines/);
  const [requisitions = 0, all = 0] = await counted();

  const form = paneOf(page, 'Raise a requisition');
  await choose(form.getByLabel('Depot'), 'NRK (2)');
  await form.getByLabel('Vessel').fill('Eider');
  const note = unique('as soon as may be');
  await form.getByLabel('Note').fill(note);
  await choose(form.getByLabel('Part of line 1'), 'P-0178');
  await form.getByLabel('Quantity of line 1').fill('two');
  await page.keyboard.press('Tab');
  await expect(form).toContainText('Quantity: “two” is not a whole number');
  await form.getByLabel('Quantity of line 1').fill('2');
  await form.getByRole('button', { name: 'Add a line' }).press('Enter');
  // The keyboard is in the line that came.
  await expect(form.getByLabel('Part of line 2')).toBeFocused();
  await choose(form.getByLabel('Part of line 2'), 'P-0437');
  await form.getByRole('button', { name: 'Add a line' }).press('Enter');
  await form.getByRole('button', { name: 'Add a line' }).press('Enter');
  await form.getByRole('button', { name: 'Drop line 4' }).press('Enter');
  await expect(form.getByLabel('Part of line 4')).toHaveCount(0);
  await form.getByLabel('Quantity of line 1').press('Enter');
  // What the server says of the second; the third was never begun, and is none.
  await expect(form).toContainText('Quantity: it is needed');
  await form.getByLabel('Quantity of line 2').fill('5');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Raise a requisition: 1 requisition with 2 lines.')).toBeVisible();
  // It opens, as its action says, and what belongs to it stands there.
  const opened = page.getByRole('dialog', { name: /^RQ-/ });
  await expect(opened).toContainText('2 lines');
  await page.keyboard.press('Escape');
  await expect(form.getByLabel('Vessel')).toHaveValue('');
  await expect(form.getByLabel('Part of line 2')).toHaveCount(0);

  await expect(table).toContainText(`of ${requisitions + 1} requisitions`);
  await expect(lines).toContainText(`of ${all + 2} lines`);
  // Other journeys count what there is.
  await removeRequisitions('Note', note);
  for (const each of [page, other]) await each.context().close();
});

test('an analyst says what is added together with a record', async ({ analyst }) => {
  await analyst.goto('/workroom');
  const link = analyst.locator('a[href*="/data-sets/"]').filter({ hasText: /^Requisitions$/ });
  await analyst.goto(`${await link.first().getAttribute('href')}/changes`);
  await analyst.getByRole('button', { name: 'Make an action' }).click();
  await analyst.getByLabel('On its button').fill('Ask for parts');
  await choose(analyst.getByLabel('What it does'), 'add a record');
  await choose(analyst.getByLabel('Set a field'), 'Vessel');
  await choose(analyst.getByLabel('Vessel becomes'), 'what the person says');
  await choose(analyst.getByLabel('Added together with it'), 'Requisition lines');
  // What points at this table says what a line belongs to.
  await expect(analyst.getByLabel('The field that says what it belongs to')).toContainText('RequisitionId');
  await expect(analyst.getByText('nothing says what the service calls its lines.')).toBeVisible();
  await expect(analyst.getByRole('button', { name: 'Save the action' })).toBeDisabled();
  await analyst.getByLabel('Their name in the request to the service').fill('Lines');
  await analyst.getByRole('button', { name: 'Save the action' }).click();
  await expect(analyst.getByText('Requisition lines can be added together with it.')).toHaveCount(2);
});
