import type { Page } from '@playwright/test';
import { addPane, startDashboard } from './support/build.ts';
import { dataSetWithSteps, punctualityByRoute, unique } from './support/make.ts';
import { choose, chooseValues, expect, test } from './support/people.ts';

/* From raw records to ones a reader understands: by mouse, and by keyboard alone. */

const records = (page: Page) => page.getByRole('region', { name: 'Records', exact: true });
const steps = (page: Page) => page.getByRole('list', { name: 'Steps' });

async function addStep(page: Page, words: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('dialog', { name: 'Add a step' }).getByRole('button', { name: words }).click();
}

/** Opens the steps of a data set, by name. */
async function openSteps(page: Page, name: string): Promise<void> {
  await page.goto('/workroom');
  await page.getByRole('link', { name, exact: true }).click();
  await page.getByRole('navigation', { name: 'This data set' }).getByRole('link', { name: 'Steps' }).click();
  await expect(records(page)).toBeVisible();
}

test('punctuality by route, from the raw table, by mouse', async ({ analyst }) => {
  await analyst.goto('/workroom/data-sets/new');
  await analyst.getByRole('link', { name: 'Sound operations' }).click();
  await analyst.getByRole('button', { name: 'sailings' }).click();
  const name = unique('Punctuality');
  await analyst.getByLabel('Name', { exact: true }).fill(name);
  await analyst.getByRole('button', { name: 'Save data set' }).click();
  await expect(analyst.getByRole('heading', { name })).toBeVisible();
  await analyst
    .getByRole('navigation', { name: 'This data set' })
    .getByRole('link', { name: 'Steps' })
    .click();
  await expect(records(analyst).getByRole('row').nth(1)).toBeVisible();

  // A first step that keeps nothing says so, and is taken back.
  await addStep(analyst, 'Keep only some records');
  await choose(analyst.getByLabel('Field', { exact: true }), 'status');
  await chooseValues(analyst, analyst, 'sunk');
  await expect(steps(analyst).getByText('It keeps nothing.')).toBeVisible();
  await expect(analyst.getByText('No records at this step.')).toBeVisible();
  await choose(analyst.getByLabel('Test', { exact: true }), 'is not');
  await chooseValues(analyst, analyst, 'planned', 'boarding', 'cancelled');
  await analyst.getByRole('button', { name: 'One more test' }).click();
  await choose(analyst.getByLabel('Field', { exact: true }).nth(1), 'delay minutes');
  await choose(analyst.getByLabel('Test', { exact: true }).nth(1), 'is not blank');
  await expect(steps(analyst).getByText(/→/)).toBeVisible();
  await expect(steps(analyst).getByText('It keeps nothing.')).toBeHidden();

  await addStep(analyst, 'Make a field');
  await analyst.getByLabel('Field', { exact: true }).fill('on time');
  const editor = analyst.getByRole('textbox', { name: 'Expression' });
  await editor.fill('CASE WHEN delay > 5 THEN 0 ELSE 1 END');
  await expect(analyst.getByText('there is no field “delay”').first()).toBeVisible();
  await editor.fill('CASE WHEN delay_minutes > 5 THEN 0 ELSE 1 END');
  await expect(analyst.getByText('Gives whole numbers.')).toBeVisible();
  await expect(
    records(analyst)
      .getByRole('button', { name: /on time/i })
      .first(),
  ).toBeVisible();

  await addStep(analyst, 'Summarise by groups');
  await choose(analyst.getByLabel('Group by'), 'route');
  await choose(analyst.getByLabel('Work out'), 'average of');
  await choose(analyst.getByLabel('Of the field'), 'on time');
  await analyst.getByLabel('Called', { exact: true }).last().fill('rate');
  await expect(records(analyst).getByRole('row')).toHaveCount(7);
  await expect(records(analyst).getByText('Skerryhaven – Norrick')).toBeVisible();

  // Undo takes the last change back, redo makes it again; passing a step over shows what it did.
  await analyst.getByRole('button', { name: 'Skip' }).click();
  await expect(records(analyst).getByRole('row')).toHaveCount(51);
  await analyst.getByRole('button', { name: 'Undo' }).click();
  await expect(records(analyst).getByRole('row')).toHaveCount(7);
  await analyst.getByRole('button', { name: 'Save steps' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await analyst.reload();
  await expect(records(analyst).getByRole('row')).toHaveCount(7);

  // One record's way, back to what the source gave: all the sailings of its route.
  await records(analyst).getByRole('row').nth(1).getByRole('button').first().click();
  const trace = analyst.getByRole('dialog', { name: 'Where this record comes from' });
  await expect(trace.getByRole('heading', { name: 'As Sound operations gave it' })).toBeVisible();
  await expect(trace.getByText(/records, of which this is the first/).first()).toBeVisible();
});

/** Presses Tab until the focus is on something of a name, as a person does who sees where it is. */
async function reach(page: Page, name: string | RegExp, most = 90): Promise<void> {
  for (let presses = 0; presses < most; presses += 1) {
    const is = await page.evaluate(() => {
      const on = document.activeElement;
      // The page as a whole may have the focus, and holds every name on it.
      if (!(on instanceof HTMLElement) || on.matches('body, main')) return '';
      const labelled =
        on instanceof HTMLInputElement || on instanceof HTMLButtonElement ? on.labels?.[0]?.textContent : '';
      return on.getAttribute('aria-label') || labelled || on.textContent || '';
    });
    if (typeof name === 'string' ? is.trim() === name : name.test(is.trim())) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`the keyboard does not reach ${name}`);
}

const press = async (page: Page, name: string | RegExp, key = 'Enter'): Promise<void> => {
  await reach(page, name);
  await page.keyboard.press(key);
};

/** Opens a list of choices and takes one by typing what it is called. */
async function chooseByKeys(page: Page, name: string | RegExp, words: string): Promise<void> {
  await press(page, name);
  await expect(page.getByRole('listbox')).toBeVisible();
  await page.keyboard.type(words, { delay: 15 });
  await page.keyboard.press('Enter');
  await expect(page.getByRole('listbox')).toBeHidden();
}

test('punctuality by route, from nothing, by keyboard alone', async ({ analyst }) => {
  await analyst.goto('/workroom/data-sets/new');
  await press(analyst, 'Sound operations');
  await expect(analyst.getByRole('button', { name: 'sailings' })).toBeVisible();
  await press(analyst, 'sailings');
  await expect(analyst.getByLabel('Name', { exact: true })).toHaveValue('Sailings');
  await analyst.keyboard.press('Shift+Tab');
  await reach(analyst, 'Name', 200);
  await analyst.keyboard.press('ControlOrMeta+a');
  await analyst.keyboard.type('Punctual by keys');
  await press(analyst, 'Save data set');
  await expect(analyst.getByRole('heading', { name: 'Punctual by keys' })).toBeVisible();
  await press(analyst, 'Steps', 'Enter');
  await expect(records(analyst).getByRole('row').nth(1)).toBeVisible();

  await press(analyst, /Add a step/);
  await expect(analyst.getByRole('dialog', { name: 'Add a step' })).toBeVisible();
  await press(analyst, 'Keep only some records');
  await expect(analyst.getByLabel('Field', { exact: true })).toBeVisible();
  await chooseByKeys(analyst, 'Field', 'delay');
  await chooseByKeys(analyst, 'Test', 'is not blank');
  await expect(steps(analyst).getByText(/→/)).toBeVisible();

  await reach(analyst, /^Add a step/, 200);
  await analyst.keyboard.press('Enter');
  await expect(analyst.getByRole('dialog', { name: 'Add a step' })).toBeVisible();
  await press(analyst, 'Summarise by groups');
  await expect(analyst.getByLabel('Group by')).toBeVisible();
  await chooseByKeys(analyst, 'Group by', 'Route');
  await chooseByKeys(analyst, 'Work out', 'median');
  await chooseByKeys(analyst, 'Of the field', 'Delay');
  await expect(records(analyst).getByRole('row')).toHaveCount(7);
  // Steps are moved with Alt and the arrows: one that needs what is not there any more says so, and moves back.
  await reach(analyst, /^Summarise by route/, 200);
  await analyst.keyboard.press('Alt+ArrowUp');
  await expect(steps(analyst).getByText('there is no field “delay_minutes”')).toBeVisible();
  await analyst.keyboard.press('Alt+ArrowDown');
  await expect(steps(analyst).getByText('there is no field “delay_minutes”')).toBeHidden();
  await expect(records(analyst).getByRole('row')).toHaveCount(7);
  await reach(analyst, 'Save steps', 200);
  await analyst.keyboard.press('Enter');
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
});

test('one passage through three systems, from their raw records', async ({ analyst }) => {
  const make = async (of: string, name: string): Promise<void> => {
    await analyst.goto('/workroom');
    await analyst.getByRole('link', { name: of, exact: true }).click();
    await analyst.getByRole('link', { name: 'New data set from this one' }).click();
    await expect(analyst.getByRole('heading', { name: 'Make a data set' })).toBeVisible();
    await analyst.getByLabel('Name', { exact: true }).fill(name);
    await analyst.getByRole('button', { name: 'Save data set' }).click();
    await expect(analyst.getByRole('heading', { name })).toBeVisible();
    await analyst
      .getByRole('navigation', { name: 'This data set' })
      .getByRole('link', { name: 'Steps' })
      .click();
    await expect(records(analyst)).toBeVisible();
  };
  const keepOnly = async (...leave: string[]): Promise<void> => {
    await addStep(analyst, 'Leave out or reorder fields');
    for (const field of leave) await analyst.getByRole('button', { name: `Leave out ${field}` }).click();
  };
  const save = async (): Promise<void> => {
    await analyst
      .getByRole('button', { name: /^Save (steps|without)/ })
      .last()
      .click();
    await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  };
  const joined = async (fields: readonly string[]): Promise<void> => {
    await addStep(analyst, 'Make a field');
    await analyst.getByLabel('Field', { exact: true }).fill('what');
    await choose(analyst.getByLabel('Is', { exact: true }), 'texts put together');
    const pick = analyst.getByRole('group', { name: 'Put together' });
    for (const box of await pick.getByRole('checkbox').all()) await box.uncheck();
    for (const field of fields) await pick.getByLabel(field, { exact: true }).check();
  };
  await make('Passage web requests', 'Web part');
  await joined(['Method', 'Status']);
  await keepOnly('Host', 'Method', 'Status', 'Bytes', 'Agent');
  await save();

  await make('Gate scans', 'Trace by hand');
  await joined(['Gate', 'Outcome']);
  await keepOnly('Gate', 'Outcome', 'Took', 'By the scanner’s clock');
  await addStep(analyst, 'Stack another data set underneath');
  await choose(analyst.getByLabel('Data set', { exact: true }), 'Web part');
  await analyst.getByLabel('A field that says where a record is from').check();
  await expect(steps(analyst).getByText('Stack Web part underneath')).toBeVisible();

  // Before a look-up is used it says how many it finds: over all records, kept ones and a service's.
  await addStep(analyst, 'Look up in another data set');
  await choose(analyst.getByLabel('Look up in'), 'Passages');
  await expect(analyst.getByText(/have none/)).toBeVisible();
  await expect(analyst.getByLabel('Our field')).toHaveText('Passage');
  await choose(analyst.getByLabel('Bring the field'), 'sailing');
  // Measures over fields that were left out are named before they go.
  await expect(
    analyst.getByRole('alert').getByText(/The measure “refused” needs the field “outcome”/),
  ).toBeVisible();
  await save();

  await openSteps(analyst, 'Trace by hand');
  await expect(records(analyst).getByRole('columnheader')).toHaveCount(5);

  // What it comes from and what it leads to, drawn; a record's key is looked into field by field.
  await analyst.getByRole('link', { name: 'What depends on it' }).click();
  const drawing = analyst.getByRole('region', { name: 'Where its records come from and go to' });
  await expect(drawing).toBeVisible();
  for (const name of ['Gate scanners', 'Passage web server', 'Web part', 'Passages'])
    await expect(drawing.getByRole('link', { name: new RegExp(`^${name}`) }).first()).toBeVisible();
  await choose(analyst.getByLabel('Field or measure'), 'what');
  await analyst.getByLabel('Call “what” otherwise').fill('what happened');
  await analyst.getByRole('button', { name: 'Rename everywhere' }).click();
  await expect(analyst.getByText('It is renamed everywhere.')).toBeVisible();
  await expect(drawing.getByRole('link', { name: /^Gate scanners/ })).toBeVisible();
});

test('one passage through three systems, from their raw records, by keyboard alone', async ({ analyst }) => {
  /** A data set of a log, from its source: the format that is found, or a pattern of one's own. */
  const fromLog = async (source: string, name: string, pattern = ''): Promise<void> => {
    await analyst.goto('/workroom/data-sets/new');
    await press(analyst, source);
    await expect(analyst.getByText(/lines fit/)).toBeVisible();
    if (pattern) {
      await chooseByKeys(analyst, 'A line is', 'a pattern');
      await reach(analyst, 'Pattern');
      await analyst.keyboard.press('ControlOrMeta+a');
      await analyst.keyboard.insertText(pattern);
      await reach(analyst, 'Try it', 200);
      await analyst.keyboard.press('Enter');
      await expect(analyst.locator('mark[title=passage_ref]').first()).toBeVisible();
    }
    await reach(analyst, 'Name', 200);
    await analyst.keyboard.press('ControlOrMeta+a');
    await analyst.keyboard.type(name);
    await press(analyst, 'Save data set');
    await expect(analyst.getByRole('heading', { level: 1, name })).toBeVisible();
  };
  const webPattern = String.raw`"(?<method>[A-Z]+) /passages/(?<passage_ref>[A-Z0-9-]+) \S+" (?<status>\d{3})`;
  await fromLog('Passage web server', 'Web by keys', webPattern);
  await fromLog('Gate scanners', 'Trace by keys');
  await press(analyst, 'Steps');
  // Its lines are fetched for the first time meanwhile.
  await expect(records(analyst).getByRole('row').nth(1)).toBeVisible();

  await reach(analyst, /^Add a step/, 200);
  await analyst.keyboard.press('Enter');
  await press(analyst, 'Stack another data set underneath');
  await chooseByKeys(analyst, 'Data set', 'Web by');
  await reach(analyst, 'A field that says where a record is from');
  await analyst.keyboard.press('Space');
  await expect(steps(analyst).getByText('Stack Web by keys underneath')).toBeVisible();

  await reach(analyst, /^Add a step/, 200);
  await analyst.keyboard.press('Enter');
  await press(analyst, 'Look up in another data set');
  // Where its values stand, by what identifies a record there, is what it begins with.
  await expect(analyst.getByLabel('Look up in')).toHaveText('Passages');
  await expect(analyst.getByText(/have none/)).toBeVisible();
  await expect(analyst.getByLabel('Our field')).toHaveText('Passage ref');
  await chooseByKeys(analyst, 'Bring the field', 'Sailing');
  await reach(analyst, 'Save steps', 200);
  await analyst.keyboard.press('Enter');
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();

  // Into the records, along a row, and one record's way back through the systems.
  await reach(analyst, 'Records', 200);
  for (let tries = 0; tries < 60; tries += 1) {
    await analyst.keyboard.press('Tab');
    if (await analyst.evaluate(() => document.activeElement?.closest('tbody') !== null)) break;
  }
  await analyst.keyboard.press('ArrowRight');
  await analyst.keyboard.press('ArrowDown');
  await analyst.keyboard.press('Enter');
  await expect(analyst.getByRole('dialog', { name: 'Where this record comes from' })).toBeVisible();
  await analyst.keyboard.press('Escape');
  await expect(analyst.getByRole('dialog')).toHaveCount(0);
});

test('what is not saved, cannot be done or is called otherwise now is said in time, with the mend', async ({
  analyst,
}) => {
  const name = unique('On time by route');
  await dataSetWithSteps('Sailings', name, punctualityByRoute);
  await openSteps(analyst, name);
  await expect(records(analyst).getByRole('row')).toHaveCount(7);

  // Another name in the middle of the steps is carried through those that read it.
  await steps(analyst)
    .getByRole('button', { name: /^Make “on time”/ })
    .click();
  await analyst.getByLabel('Field', { exact: true }).fill('punctual');
  await expect(steps(analyst).getByText('“on time” is called “punctual” now.')).toBeVisible();
  await steps(analyst).getByRole('button', { name: 'Read “punctual” here' }).click();
  await steps(analyst)
    .getByRole('button', { name: /^Summarise/ })
    .click();
  await expect(records(analyst).getByRole('row')).toHaveCount(7);

  // Leaving the page asks first.
  await analyst.getByRole('link', { name: 'Subsets, checks and rules' }).click();
  const asked = analyst.getByRole('alertdialog', { name: 'The steps are not saved' });
  await asked.getByRole('button', { name: 'Keep editing' }).click();
  await expect(asked).toBeHidden();
  await expect(records(analyst)).toBeVisible();

  // The one match where there are several is refused, with examples, until the analyst chooses.
  await addStep(analyst, 'Make a field');
  await analyst.getByLabel('Field', { exact: true }).fill('code');
  await analyst.getByRole('textbox', { name: 'Expression' }).fill("'NRK'");
  await addStep(analyst, 'Look up in another data set');
  await choose(analyst.getByLabel('Look up in'), 'Depots');
  await choose(analyst.getByLabel('Our field'), 'code');
  await choose(analyst.getByLabel('Their field'), 'Code');
  await expect(analyst.getByText(/have several, such as “NRK”/)).toBeVisible();
  const refused = analyst.getByText(/cannot be done over all the records, so the steps cannot be saved/);
  await expect(refused).toBeVisible();
  await expect(analyst.getByRole('button', { name: 'Save steps' })).toBeDisabled();
  await analyst.getByRole('button', { name: 'Take the first by an order' }).click();
  await expect(refused).toBeHidden();
  await analyst.getByRole('button', { name: 'Save steps' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();

  // A warning that is meant so is put away, stays so when it is saved, and can be shown again.
  await addStep(analyst, 'Make a field');
  await analyst.getByLabel('Field', { exact: true }).fill('remark');
  await analyst.getByRole('textbox', { name: 'Expression' }).fill("nullif('none', 'none')");
  const warning = steps(analyst).getByText(/^“remark” is blank for 6 of 6/);
  await expect(warning).toBeVisible();
  await steps(analyst).getByRole('button', { name: 'That’s expected' }).click();
  await expect(warning).toBeHidden();
  await analyst.getByRole('button', { name: 'Save steps' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await analyst.reload();
  await steps(analyst).getByRole('button', { name: 'Show a warning again' }).click();
  await expect(warning).toBeVisible();

  // What the source cannot do says so, and offers to keep the records.
  await addStep(analyst, 'Make a field');
  await analyst.getByLabel('Field', { exact: true }).fill('from port');
  await choose(analyst.getByLabel('Is', { exact: true }), 'what a pattern finds');
  await choose(analyst.getByLabel('Text', { exact: true }), 'route');
  await analyst.getByLabel('Pattern', { exact: true }).fill('^[^ ]+');
  await expect(steps(analyst).getByText(/^The source cannot do this/)).toBeVisible();
  await steps(analyst).getByRole('button', { name: 'Keep the records' }).click();
  await expect(records(analyst).getByText('Skerryhaven', { exact: true }).first()).toBeVisible({
    timeout: 30_000,
  });
  await expect(steps(analyst).getByText(/^The source cannot do this/)).toBeHidden();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  await asked.getByRole('button', { name: 'Leave without saving' }).click();
  await expect(analyst.getByRole('heading', { name: `Kept records of ${name}` })).toBeVisible();
});

test('subsets count live, checks say what fails, and a pane of the data set shows the mark', async ({
  analyst,
}) => {
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Depots', exact: true }).click();
  await analyst.getByRole('link', { name: 'Subsets, checks and rules' }).click();
  const checks = analyst.getByRole('region', { name: 'Checks' });
  await expect(checks.getByText('2 depots share it')).toBeVisible();
  await checks.getByRole('button', { name: 'Show them' }).click();
  await expect(checks.getByRole('cell', { name: 'NRK' })).toBeVisible();

  const subsets = analyst.getByRole('region', { name: 'Subsets' });
  await subsets.getByRole('button', { name: 'Make a subset' }).click();
  await subsets.getByLabel('Called').fill('depots of one code');
  await subsets.getByRole('button', { name: 'Keep only some' }).click();
  await choose(subsets.getByLabel('Field', { exact: true }), 'Code');
  await chooseValues(analyst, subsets, 'NRK');
  await expect(subsets.getByText('2 depots').first()).toBeVisible();
  await subsets.getByRole('button', { name: 'Save the subset' }).click();
  await expect(subsets.getByText('where code is NRK')).toBeVisible();

  await startDashboard(analyst, 'Depots we have');
  await addPane(analyst, 'Depots', /Which records\?/);
  await analyst.getByRole('button', { name: 'all depots', exact: true }).click();
  await analyst.getByRole('button', { name: 'depots of one code' }).click();
  await analyst.getByLabel('Title').fill('Two of one code');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();
  const pane = analyst.getByRole('region', { name: 'Two of one code', exact: true });
  await expect(pane.getByRole('row')).toHaveCount(3);
  await expect(pane.getByText('One depot for each code: 2 depots share it')).toBeVisible();
});
